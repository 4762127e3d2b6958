"""Figures of a recipe: numbers, or sums in words of its sizes, worked out without running anything that stands in them."""

from __future__ import annotations

import ast
import math
import operator
from collections.abc import Callable, Mapping
from functools import lru_cache

from ..errors import UserError

LONGEST = 200
"""Characters of a sum."""
LARGEST = 1e6
"""What a figure may come to: mm or degrees."""
_TWO: dict[type, Callable[[float, float], float]] = {
    ast.Add: operator.add,
    ast.Sub: operator.sub,
    ast.Mult: operator.mul,
    ast.Div: operator.truediv,
}
_OF: dict[str, Callable[..., float]] = {
    "sqrt": math.sqrt,
    "abs": abs,
    "min": min,
    "max": max,
    "sin": lambda x: math.sin(math.radians(x)),
    "cos": lambda x: math.cos(math.radians(x)),
    "tan": lambda x: math.tan(math.radians(x)),
    "asin": lambda x: math.degrees(math.asin(x)),
    "acos": lambda x: math.degrees(math.acos(x)),
    "atan": lambda x: math.degrees(math.atan(x)),
}
FUNCTIONS = tuple(_OF)
"""What may be asked of figures; angles are degrees."""


def worked_out(figure: float | str, sizes: Mapping[str, float]) -> float:
    """What a figure comes to, by the values of the sizes that it names.

    Raises
    ------
    UserError
        Where it is no sum, names a size that is not there, or comes to nothing finite.
    """
    if isinstance(figure, str):
        try:
            found = _value(_parsed(figure), sizes)
        except (ZeroDivisionError, ValueError, OverflowError, TypeError) as error:
            raise UserError(f"“{figure}” comes to nothing", f"{error}. Change it.") from error
        told = f"“{figure}”"
    else:
        found, told = float(figure), f"{figure:g}"
    if not math.isfinite(found) or abs(found) > LARGEST:
        raise UserError(f"{told} comes to {found:g}", f"A figure is at most {LARGEST:g}. Change it.")
    return found


@lru_cache(maxsize=2048)
def _parsed(text: str) -> ast.expr:
    if len(text) > LONGEST:
        raise UserError(f"“{text[:40]}…” is too long", f"A sum has at most {LONGEST} characters.")
    try:
        return ast.parse(text.strip(), mode="eval").body
    except (SyntaxError, ValueError, RecursionError, MemoryError) as error:
        raise UserError(
            f"“{text}” is no sum", "Write figures, names of sizes, + - * / and brackets, such as (length - 20) / 2."
        ) from error


def _value(node: ast.expr, sizes: Mapping[str, float]) -> float:
    match node:
        case ast.Constant(value=bool()):
            pass
        case ast.Constant(value=int() | float() as number):
            return float(number)
        case ast.Name(id="pi") if "pi" not in sizes:
            return math.pi
        case ast.Name(id=name):
            if name not in sizes:
                raise UserError(f"There is no size named {name}", "Name one that stands before it, or add it.")
            return sizes[name]
        case ast.UnaryOp(op=ast.USub(), operand=inner):
            return -_value(inner, sizes)
        case ast.UnaryOp(op=ast.UAdd(), operand=inner):
            return _value(inner, sizes)
        case ast.BinOp(left=left, op=op, right=right) if type(op) in _TWO:
            return _TWO[type(op)](_value(left, sizes), _value(right, sizes))
        case ast.Call(func=ast.Name(id=name), args=args, keywords=[]) if name in _OF and args:
            return float(_OF[name](*(_value(a, sizes) for a in args)))
    raise UserError(
        f"“{ast.unparse(node)[:60]}” cannot be worked out", f"A sum has + - * / and {', '.join(FUNCTIONS)} only."
    )


class Figures:
    """The figures of a recipe, worked out by the values of its sizes."""

    def __init__(self, sizes: Mapping[str, float]) -> None:
        self._sizes = sizes

    def of(self, figure: float | str) -> float:
        """What a figure comes to."""
        return worked_out(figure, self._sizes)

    def above_nothing(self, figure: float | str, what: str) -> float:
        """The same of one that has to be more than 0: a length of something, called ``what``; raises UserError where it is not."""
        found = self.of(figure)
        if found <= 1e-6:
            raise UserError(f"its {what} comes to {found:g}", "It has to be more than 0.")
        return found

    def place(self, place: tuple[float | str, float | str, float | str]) -> tuple[float, float, float]:
        """A place or a way in space."""
        x, y, z = (self.of(c) for c in place)
        return x, y, z
