"""Finding the subject of one picture: by marks, by what moves, by who is a person, by what differs from a plate."""
