"""The way from pixels to what is in them: footage, mattes, scenes, subjects. Knows no document."""
