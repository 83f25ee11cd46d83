"""Sound: the footage's own, cut together as the ground is."""
