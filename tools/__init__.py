"""Judges, surveys and benchmarks: commands that developers run, none of which the product needs."""
