"""The document, its time and its motion: opens no file, draws nothing, decodes nothing."""
