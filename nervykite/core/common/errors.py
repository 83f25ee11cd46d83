"""The one exception a person gets to read."""


class Refusal(ValueError):
    """Something cannot be done as asked; the text is a sentence that says what is wrong and what to do."""


class Cancelled(Exception):
    """The person stopped the work."""
