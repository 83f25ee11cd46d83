"""The made-up world of the Gull Point kite relay, and the demo project built from its footage."""

from pathlib import Path

FOOTAGE = Path(__file__).parent / "footage"
"""What was filmed in it: shots, the truth about them, sound."""
