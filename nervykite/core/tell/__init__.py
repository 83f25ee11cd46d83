"""The answers about a document that its page asks for: curves, rehearsals, bundles."""
