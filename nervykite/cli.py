"""The command line: everything that needs no page."""

import argparse
import json
import os
import sys
from pathlib import Path
from tempfile import TemporaryDirectory

from .core.common.errors import Refusal
from .studio import Studio, default_folder
from .studio.claim import Claim
from .studio.logs import log_to

CHECKOUT = Path(__file__).parents[1]
"""Where the project lies, if the program runs out of it."""


def serve(options: argparse.Namespace) -> None:
    """Starts the server on loopback, and prints its address."""
    from .server.app import PAGE
    from .server.listening import Listening

    if not (PAGE / "index.html").is_file():
        raise Refusal("The page has not been built yet. Run “make setup” first.")
    with Listening(options.data, options.port, watches=not options.no_watching) as server:
        log_to(options.data)
        print(f"Nervy Kite is at {server.address}  (Ctrl+C ends it)", flush=True)
        server.run()


def doctor(options: argparse.Namespace) -> None:
    """Looks at a data folder and at the program: what is well, what is not, and what to do; mends what it can."""
    from .server.app import PAGE
    from .studio.doctor import examine

    log_to(options.data)
    marks = {"well": "  ", "mended": "+ ", "trouble": "! "}
    found = []
    for finding in examine(options.data, PAGE, options.thorough):
        found.append(finding)
        if not options.json:
            print(f"{marks[finding.state]}{finding.what:<10} {finding.sentence}")
    if options.json:
        print(json.dumps([f.__dict__ for f in found], indent=2))
    troubles = sum(f.state == "trouble" for f in found)
    if troubles:
        raise Refusal(f"{troubles} thing{'s are' if troubles > 1 else ' is'} not as it should be, see above.")


def demo(options: argparse.Namespace) -> None:
    """Puts the demo project into the data folder if it is not there, and serves."""
    from .demo.demo_project import add_demo

    studio = Studio(options.data)
    claim = Claim(options.data)
    add_demo(studio)
    studio.close()
    claim.release()
    if not options.no_serve:
        serve(options)


def export(options: argparse.Namespace) -> None:
    """Writes a project, or what of it is asked for, to a file, in the format of its ending."""
    from .core.draw.send.export import Output
    from .studio.asked_to_send import asked_for, progress_shown
    from .studio.bundle import BUNDLE, write_bundle
    from .studio.timelines import write_timeline

    if options.set and len(options.to) > 1:
        raise Refusal("Settings are those of one format. Send to one file, or leave out --set.")
    studio = Studio(options.data)
    try:
        document = studio.projects.state(studio.projects.find(options.project)).document
        tell = progress_shown(options.json)
        outputs = []
        for to in options.to:
            if to.suffix.lower() in (".otio", ".otioz", ".otiod"):
                write_timeline(studio, document, to, tell)
            elif to.name.lower().endswith(BUNDLE):
                write_bundle(studio, document, to, not options.used, tell)
            else:
                writer, sending = asked_for(
                    document, to, options.set, options.range, options.still, options.layer, options.ground,
                    options.over, options.size, options.rate,
                )  # fmt: skip
                outputs.append(Output(to, writer, sending))
        if outputs:
            studio.export(document, *outputs, progress=tell)
        for to in options.to:
            if options.json:
                print(json.dumps({"file": str(to), "bytes": to.stat().st_size}), flush=True)
            else:
                print(f"\r{to}", file=sys.stderr)
    finally:
        studio.close()


def import_(options: argparse.Namespace) -> None:
    """Opens a bundle, or an OpenTimelineIO file with the footage that it names, as a project of its own."""
    from .studio.handed import open_handed

    studio = Studio(options.data)
    try:
        made, left = open_handed(studio, options.bundle, options.bundle.name)
        for sentence in left:
            print(sentence, file=sys.stderr)
        name = studio.state(made).document.project.name
        print(json.dumps({"project": made, "name": name, "left": left}) if options.json else name)
    finally:
        studio.close()


def recipes(options: argparse.Namespace) -> None:
    """Lists the recipes: what each makes, and its settings."""
    from .core.piece.model import Recipe
    from .core.piece.model.kinds import by_rank, name_of

    kinds = [(name_of(made), made) for made in by_rank(Recipe.family) if made.listed]
    if options.json:
        told = [
            {"kind": kind, "title": made.title, "hint": made.hint, "takes": made.takes, "when": made.when,
             "film": made.film, "missed": made.missed, "settings": made().settings}
            for kind, made in kinds
        ]  # fmt: skip
        print(json.dumps(told, indent=2))
        return
    for kind, made in kinds:
        print(f"{kind:16}  {made.hint}. {'Two takes. ' if made.takes > 1 else ''}{made.when}")


def make(options: argparse.Namespace) -> None:
    """Makes a piece of videos by a recipe, and sends it."""
    from .core.draw.send.export import Output
    from .core.draw.send.writer import writer_for
    from .studio.cooking import cook, project_for, recipe_from, recipe_of

    own = options.recipe.endswith(".json")
    recipe, writer = None if own else recipe_of(options.recipe, options.set), writer_for(options.out.name)
    with TemporaryDirectory(prefix="nervykite-") as folder:
        studio = Studio(options.data if options.project else Path(folder))
        try:
            recipe = recipe or recipe_from(studio, Path(options.recipe), options.set)
            project = project_for(studio, options.project or recipe.called, options.sources)

            def step(says: str, share: float) -> None:
                if options.json:
                    print(json.dumps({"does": says, "share": round(share, 4)}), flush=True)
                else:
                    print(f"\r{share:5.0%} {says:60.60}", end="", file=sys.stderr, flush=True)

            cooked = cook(studio, project, recipe, step=step)
            document = studio.state(project).document
            studio.export(document, Output(options.out, writer), progress=lambda share: step("Sends it", share))
            doubtful = [x.name for id_ in cooked.doubtful if (x := document.layer(id_)) is not None]
            if options.json:
                print(json.dumps({"file": str(options.out), "doubtful": doubtful}))
            else:
                print(f"\r{options.out}", file=sys.stderr)
        finally:
            studio.close()


def snags(options: argparse.Namespace) -> int:
    """Lists what will look wrong in a project. Ends with 2 if there is anything."""
    from .studio.snag_watch import look_at, told

    studio = Studio(options.data)
    try:
        state = studio.projects.state(studio.projects.find(options.project))
        found = look_at(studio, studio.evaluation(state))
        print(told(found, options.json))
        return 2 if found else 0
    finally:
        studio.close()


def projects(options: argparse.Namespace) -> None:
    """Lists the projects."""
    entries = Studio(options.data).projects.list()
    if options.json:
        print(json.dumps([e.__dict__ for e in entries], indent=2))
        return
    for entry in entries:
        print(f"{entry.id}  {entry.width}×{entry.height}  {entry.changed[:16].replace('T', ' ')}  {entry.name}")


def cut(options: argparse.Namespace) -> None:
    """Cuts the subject out of one frame of a video, or out of a picture."""
    from .studio.single import cut, write_cut

    done = cut(
        options.source, options.frame, options.marks, options.pick, options.plate, options.path, options.grow,
        options.fine_edge,
    )  # fmt: skip
    write_cut(done, options.matte, options.out, options.json)
    for warning in done.warnings:
        print(warning, file=sys.stderr)


def moments(options: argparse.Namespace) -> None:
    """Finds the frames of a video that are worth holding: where its movement peaks, and how crisp they are."""
    from .studio.single_moments import moments, written

    print(written(moments(options.source, options.count, options.every, options.range), options.json))


def carry(options: argparse.Namespace) -> None:
    """Carries a matte from one frame of a video to others, and writes a matte for each."""
    from .studio.single import carry

    carry(options.source, options.at, options.matte, options.to, options.out, options.json)


def plate(options: argparse.Namespace) -> None:
    """Builds the scene without what moves through it, from the frames of a video."""
    from .studio.single import plate

    plate(options.source, options.at, options.out, options.json)


def track(options: argparse.Namespace) -> None:
    """Follows the camera of a video, and writes where each frame lies on one of them."""
    from .studio.following import track, write

    print(write(track(options.source, options.ref, options.matte), options.out, options.json))


def beats(options: argparse.Namespace) -> None:
    """Finds the beats of a piece of music, or of a video's sound: how fast, where, which begin bars."""
    from .studio.tunes import beats, written

    print(written(beats(options.source), options.json))


def _range(text: str) -> tuple[int, int]:
    first, _, past = text.partition(":")
    if not (first.isdigit() and past.isdigit() and int(first) < int(past)):
        raise argparse.ArgumentTypeError("a range is written A:B, first frame and first frame after it, like 30:90")
    return int(first), int(past)


def _size(text: str) -> tuple[int, int]:
    width, _, height = text.lower().partition("x")
    if not (width.isdigit() and height.isdigit()):
        raise argparse.ArgumentTypeError("a size is written WxH, like 1080x1920")
    return int(width), int(height)


def _count(text: str) -> int:
    if not (text.isdigit() and 0 < int(text) < 1_000_000):
        raise argparse.ArgumentTypeError("give a whole number, at least 1")
    return int(text)


def parser() -> argparse.ArgumentParser:
    """The commands and their options."""
    root = argparse.ArgumentParser(prog="nervykite", description="Fly frozen cutouts over moving footage.")
    commands = root.add_subparsers(required=True, metavar="COMMAND")

    def command(name: str, action) -> argparse.ArgumentParser:
        sub = commands.add_parser(name, help=action.__doc__.splitlines()[0], description=action.__doc__)
        sub.set_defaults(action=action)
        return sub

    def data(sub: argparse.ArgumentParser) -> None:
        sub.add_argument("--data", type=Path, default=default_folder(), help="data folder (default: %(default)s)")

    def served(sub: argparse.ArgumentParser) -> None:
        sub.add_argument("--port", type=int, default=8457, help="port on loopback, 0 for any (default: %(default)s)")
        sub.add_argument(
            "--no-watching", action="store_true", help="look shots through only when asked, not as they come"
        )

    sub = command("serve", serve)
    data(sub)
    served(sub)
    sub = command("demo", demo)
    data(sub)
    served(sub)
    sub.add_argument("--no-serve", action="store_true", help="only put the demo project there")
    sub = command("export", export)
    sub.add_argument("project", metavar="PROJECT", help="a project's id or name")
    data(sub)
    endings = ".mp4, .mov, .webm, .gif, .webp, .png for a still, .zip for a sequence, .kite.zip for a bundle, .otio"
    sub.add_argument(
        "--to", "--out", type=Path, required=True, action="append", metavar="FILE",
        help=f"the file, by its ending: {endings}; several are sent together",
    )  # fmt: skip
    sub.add_argument("--used", action="store_true", help="for a bundle: without what the piece does not use")
    sub.add_argument("--range", type=_range, metavar="A:B", help="only frames A to B-1")
    sub.add_argument("--still", type=int, metavar="N", help="only frame N")
    what = sub.add_mutually_exclusive_group()
    what.add_argument("--layer", action="append", metavar="NAME", help="only a layer or group, by id or name")
    what.add_argument("--ground", action="store_true", help="only the ground")
    sub.add_argument("--over", choices=("nothing", "plate"), default="nothing", help="what layers are sent over")
    sub.add_argument("--size", type=_size, metavar="WxH", help="pixels, where not the project's own")
    sub.add_argument("--rate", metavar="R", help="frames a second, as a number or a fraction")
    sub.add_argument("--set", action="append", default=[], metavar="KEY=VALUE", help="a setting of the format")
    sub.add_argument("--json", action="store_true", help="tell progress as lines of JSON")
    sub = command("make", make)
    sub.add_argument("recipe", metavar="RECIPE", help="its name, see “nervykite recipes”")
    sub.add_argument("sources", type=Path, nargs="+", metavar="SOURCE", help="a video; for some recipes two")
    sub.add_argument("--out", type=Path, required=True, metavar="FILE", help="where to send it, by its ending")
    sub.add_argument("--set", action="append", default=[], metavar="KEY=VALUE", help="a setting of the recipe")
    sub.add_argument("--project", metavar="NAME", help="keep it as a project of that name, or add it to that one")
    data(sub)
    sub.add_argument("--json", action="store_true", help="tell progress as lines of JSON")
    sub = command("recipes", recipes)
    sub.add_argument("--json", action="store_true", help="as JSON")
    sub = command("import", import_)
    sub.add_argument("bundle", type=Path, metavar="FILE", help="a bundle, or an .otio or .otioz timeline")
    data(sub)
    sub.add_argument("--json", action="store_true", help="as JSON")
    sub = command("snags", snags)
    sub.add_argument("project", metavar="PROJECT", help="a project's id or name")
    data(sub)
    sub.add_argument("--json", action="store_true", help="as JSON")
    sub = command("doctor", doctor)
    data(sub)
    sub.add_argument("--thorough", action="store_true", help="read every stored file and hold it against its hash")
    sub.add_argument("--json", action="store_true", help="as JSON")
    sub = command("projects", projects)
    data(sub)
    sub.add_argument("--json", action="store_true", help="as JSON")
    sub = command("cut", cut)
    sub.add_argument("source", type=Path, metavar="SOURCE", help="a video or a picture")
    sub.add_argument("--frame", type=int, default=0, metavar="N", help="the frame, counted from 0")
    way = sub.add_mutually_exclusive_group(required=True)
    way.add_argument("--marks", type=Path, metavar="FILE", help="keep and drop strokes (JSON)")
    way.add_argument("--pick", choices=("mover", "person", "difference"), help="let the program find the subject")
    way.add_argument("--path", type=Path, metavar="FILE", help="an SVG document in source pixels")
    sub.add_argument("--plate", type=Path, metavar="FILE", help="the clean plate, for --pick difference")
    sub.add_argument("--grow", type=float, default=0.0, metavar="PX", help="move the edge out, or in if negative")
    sub.add_argument("--fine-edge", type=float, metavar="PX", help="how far to each side the edge is solved; 0: not")
    sub.add_argument("--matte", type=Path, required=True, metavar="FILE", help="the matte to write, grey PNG")
    sub.add_argument("--out", type=Path, metavar="FILE", help="the cutout to write, PNG with alpha")
    sub.add_argument("--json", type=Path, metavar="FILE", help="what was done, warnings, and how long it took")
    sub = command("moments", moments)
    sub.add_argument("source", type=Path, metavar="SOURCE", help="a video")
    how = sub.add_mutually_exclusive_group()
    how.add_argument("--count", type=_count, metavar="N", help="the N best (default: as many as stand out)")
    how.add_argument("--every", type=_count, metavar="N", help="every Nth frame instead, while the subject is seen")
    sub.add_argument("--range", type=_range, metavar="A:B", help="only frames A to B-1")
    sub.add_argument("--json", type=Path, metavar="FILE", help="also write them there, with the curves")
    sub = command("carry", carry)
    sub.add_argument("source", type=Path, metavar="SOURCE", help="a video")
    sub.add_argument("--from", type=int, required=True, metavar="N", dest="at", help="the frame whose matte is given")
    sub.add_argument("--matte", type=Path, required=True, metavar="FILE", help="its matte, grey PNG")
    sub.add_argument("--to", type=_range, required=True, metavar="A:B", help="frames A to B-1")
    sub.add_argument("--out", type=Path, required=True, metavar="DIR", help="where 000123.png and so on are written")
    sub.add_argument("--json", type=Path, metavar="FILE", help="what was done, warnings, and how long it took")
    sub = command("plate", plate)
    sub.add_argument("source", type=Path, metavar="SOURCE", help="a video")
    sub.add_argument("--at", type=int, required=True, metavar="N", help="the frame it is built for")
    sub.add_argument("--out", type=Path, required=True, metavar="FILE", help="the picture to write")
    sub.add_argument("--json", type=Path, metavar="FILE", help="what was done, warnings, and how long it took")
    sub = command("track", track)
    sub.add_argument("source", type=Path, metavar="SOURCE", help="a video of one take")
    sub.add_argument("--ref", type=int, required=True, metavar="N", help="the frame that the others are laid onto")
    sub.add_argument("--matte", type=Path, metavar="FILE", help="what goes its own way in that frame, grey PNG")
    sub.add_argument("--out", type=Path, required=True, metavar="FILE", help="the track to write, JSON")
    sub.add_argument("--json", type=Path, metavar="FILE", help="what was done, doubtful frames, and how long it took")
    sub = command("beats", beats)
    sub.add_argument("source", type=Path, metavar="SOURCE", help="a sound or a video")
    sub.add_argument("--json", type=Path, metavar="FILE", help="bpm, beats, bars and accents, in seconds")
    if (CHECKOUT / "tools/bench").is_dir():
        sys.path.insert(0, str(CHECKOUT))  # not installed: only a checkout has what is measured with
        from tools.bench.command import add_bench

        add_bench(command)
    return root


def main(arguments: list[str] | None = None) -> int:
    """Runs the command line; returns the exit code."""
    options = parser().parse_args(arguments)
    try:
        done = options.action(options) or 0
        sys.stdout.flush()
        return done
    except Refusal as refusal:
        print(f"nervykite: {refusal}", file=sys.stderr)
        return 1
    except KeyboardInterrupt:
        return 130
    except BrokenPipeError:
        # Who read what is told has left. What is in the buffer yet would be written at the end, and fail again.
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 0


if __name__ == "__main__":
    sys.exit(main())
