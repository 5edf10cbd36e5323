"""A composed page: views in their places, what is written on them, and what its maker should know."""
