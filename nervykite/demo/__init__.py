"""The made-up world of the Gull Point kite relay, and the demo project built from its footage."""
