"""What the processes of a survey start with: the kernel's modules and the machine code, loaded once."""

from barequill.core.part import preparing, weighing
from barequill.core.projection.warming import warm

from . import truth

warm()
__all__ = ["preparing", "truth", "weighing"]
