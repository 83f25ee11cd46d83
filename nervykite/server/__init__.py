"""The web server: routes, jobs, the preview stream, safety."""
