"""Order on a sheet: what lies on what, dimensions in rows, leaders, views moved apart, and what a checker would mark."""
