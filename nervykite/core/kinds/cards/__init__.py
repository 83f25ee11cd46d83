"""Cards: designs for a name with a line below it, made of lettering, shapes and moves."""
