"""What finishes are made of: blurs in light, distances, noise, colours. Pictures in, pictures out."""
