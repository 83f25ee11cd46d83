"""The job itself: no web, no database, no global state; arrays in, arrays out."""
