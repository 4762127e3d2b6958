"""Parts as recipes: named sizes, and steps that a kernel builds them by. See ``docs/recipe-format.md``."""
