"""What the processes of a survey start with: the kernel's modules and the machine code, loaded once."""

from barequill.core.projection.warming import warm
from barequill.core.reading import preparing, weighing

from . import truth

warm()
__all__ = ["preparing", "truth", "weighing"]
