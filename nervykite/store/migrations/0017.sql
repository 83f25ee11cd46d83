-- Recipes: what each one made, so that another one can take its place.
ALTER TABLE projects ADD COLUMN made TEXT NOT NULL DEFAULT '[]' CHECK (json_valid(made));
