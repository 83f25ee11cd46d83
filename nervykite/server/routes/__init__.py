"""The routers of the server, one a subject; each is made for a desk."""
