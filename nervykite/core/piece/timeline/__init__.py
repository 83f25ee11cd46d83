"""Time: which frame shows when, where layers lie, what is tied to what. Knows no pixels."""
