"""Cutting without cutting: near limits, where they meet the part, and the faces that they lay open."""

from .limits import NO_CUT, Cell, Cut, CuttingPlane, beyond

__all__ = ["NO_CUT", "Cell", "Cut", "CuttingPlane", "beyond"]
