"""The way from a document and pixels to pictures, sound and files."""
