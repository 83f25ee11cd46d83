"""What the server answers, one router a subject; each is made for a desk."""
