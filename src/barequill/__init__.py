"""Bare Quill: dimensioned drawing sheets from 3D part models."""

__version__ = "0.1.0"
