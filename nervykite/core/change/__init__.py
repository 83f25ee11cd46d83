"""The changes to a document: edits, recipes that make many of them, checks that propose them."""
