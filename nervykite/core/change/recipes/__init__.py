"""Recipes, one file a sort of work: what each makes, and of which frames. Each is put by `edits.cooking`."""
