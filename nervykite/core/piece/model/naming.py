"""Names that are not taken yet."""


def free_name(wanted: str, taken: set[str]) -> str:
    """The name, with a number behind it if it is taken."""
    if wanted not in taken:
        return wanted
    stem, _, last = wanted.rpartition(" ")
    if not (stem and last.isdigit()):
        stem = wanted
    stem, n = stem[:110], 2
    while f"{stem} {n}" in taken:
        n += 1
    return f"{stem} {n}"
