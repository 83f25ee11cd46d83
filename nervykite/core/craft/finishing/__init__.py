"""The stuff of finishes: blurs in light, distances, noise, colours. Pictures in, pictures out."""
