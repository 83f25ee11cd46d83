"""The desk that all routers share: the studio, what is drawn and done for the page, and finding things by their ids."""

import logging

from ..core.common.kept import Kept
from ..core.draw.picture.affected import FrameKeys
from ..core.piece.model import Document, Hold, Shot
from ..store.projects import UNREADABLE, Missing, State, Unreadable
from ..studio import Studio
from ..studio.watching import ShotObservations
from .background_watch import Watcher
from .hub import Hub
from .live import Live
from .messages import ChangedNews
from .pictures import Pictures
from .quiet import Quiet
from .sends import sending_again
from .tidying import Tidying
from .views import ProjectView, ViewState
from .warming import Warming
from .work import Lookahead, Work

log = logging.getLogger("nervykite")
SEEN = 24
"""How many states are remembered, so that a page that has seen one is told only what changed since."""
NEAR = 4, 12
"""So many frames before the one that is looked at, and from it on, are near it."""


class Desk:
    """A studio being worked at through the page."""

    def __init__(self, studio: Studio) -> None:
        self.studio = studio
        self.hub = Hub()
        self.quiet = Quiet(lambda: self.work.running())
        self.pictures = Pictures(studio, self.quiet)
        self.tidying = Tidying(studio.tidy, lambda: self.work.busy())
        self.work = Work(studio.jobs, self.hub, self.tidying.soon)
        self.live = Live(studio, self.pictures, self.hub, self.quiet)
        self.ahead = Lookahead()
        self.looks = ShotObservations(studio)
        self.watcher = Watcher(studio, self.hub, self.quiet)
        self.warming = Warming(studio, self.pictures, self.view, self.quiet)
        self._seen: Kept[ViewState] = Kept(SEEN)
        self._newest: Kept[ViewState] = Kept(8)

    def start(self) -> None:
        """Begins to work, with the loop that runs now."""
        self.hub.start()
        self.studio.recover()
        for job in self.studio.jobs.interrupted():
            # What cannot be begun any more says so, as any job that fails.
            self.work.take_up(job, sending_again(self.studio, job))
        self.tidying.start()
        if self.studio.watches:
            self.warming.start()

    def close(self) -> None:
        """Ends all work."""
        self.work.close()
        self.watcher.close()
        self.warming.close()
        self.tidying.close()
        self.ahead.close()
        self.live.close()

    def seen(self, state: State) -> ViewState:
        """A state laid out as views have it. Raises Unreadable if it cannot be."""
        project = state.document.project.id
        key = project, state.revision
        known = self._seen.peek(key)
        if known is None or known.state.document is not state.document:
            before = self._newest.peek(project)
            try:
                keys = FrameKeys(self.studio.evaluation(state), before.keys if before else None)
                known = ViewState(state, keys, before)
            except Exception as error:
                log.exception("project %s cannot be laid out", project)
                raise Unreadable(UNREADABLE) from error
            self._seen[key] = self._newest[project] = known
        return known

    def view(self, state: State, since: int | None = None) -> ProjectView:
        """A state for the page, or what has changed since a revision that it has seen, if that is remembered."""
        before = None if since is None else self._seen.peek((state.document.project.id, since))
        seen = self.seen(state)
        try:
            return seen.view(before)
        except Exception as error:
            log.exception("project %s cannot be told", state.document.project.id)
            raise Unreadable(UNREADABLE) from error

    def changed(self, state: State, since: int | None, at: int | None = None) -> ProjectView:
        """The same after a change, of which everybody who looks at the project is told.

        at: the frame that is looked at; the keys of those around it come along
        """
        self.tell(state.document.project.id, state.revision)
        view = self.view(state, since)
        if at is not None:
            first = max(0, at - NEAR[0])
            view = view.model_copy(update={"near": (first, self.seen(state).keys.of(first, at + NEAR[1]))})
        return view

    def tell(self, project: str, revision: int | None = None) -> None:
        """Tells the pages that show a project that it has changed."""
        revision = self.studio.projects.revision(project) if revision is None else revision
        self.hub.tell(project, ChangedNews(revision=revision))

    def shot(self, project: str, shot: str) -> Shot:
        """A shot of a project. Raises Missing."""
        shots = self.studio.state(project).document.shots
        if shot not in shots:
            raise Missing("There is no such shot in this project.")
        return shots[shot]

    def frame_of(self, project: str, shot: str, *frames: int) -> Shot:
        """A shot of a project that has some frames. Raises Missing."""
        found = self.shot(project, shot)
        for frame in frames:
            if not 0 <= frame < found.frames:
                raise Missing(f"{found.name} has no such frame; its last one is {found.frames - 1}.")
        return found

    def document_with(self, project: str, hold: str) -> tuple[Document, Hold]:
        """A project's document, and a hold in it. Raises Missing."""
        document = self.studio.state(project).document
        if hold not in document.holds:
            raise Missing("That hold is no longer there. Choose another.")
        return document, document.holds[hold]

    def hold(self, project: str, hold: str) -> tuple[Hold, Shot]:
        """A hold of a project, and its shot. Raises Missing."""
        document, found = self.document_with(project, hold)
        return found, document.shots[found.shot]
