"""The structure of an assembly: products, of what they are put together, and how often each is in the whole."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

from ..values import value


@value
class Product:
    """A product of a file: a part with bodies of its own, or what is put together of others.

    ``uses`` are the rows of those products, each as often as it stands in this one; all of them come later in the list, so
    that no product stands in itself. ``material`` is that which the file gives.
    """

    name: str
    number: str = ""
    uses: tuple[int, ...] = ()
    material: str | None = None


def tops_of(products: Sequence[Product]) -> list[int]:
    """The rows of those that stand in no other."""
    used = {child for p in products for child in p.uses}
    return [row for row in range(len(products)) if row not in used]


def quantities(products: Sequence[Product]) -> list[int]:
    """How often each product is in the whole."""
    found = [0] * len(products)
    for row in tops_of(products):
        found[row] = 1
    for row, product in enumerate(products):
        for child, count in Counter(product.uses).items():
            found[child] += count * found[row]
    return found


def told(products: Sequence[Product], bodies: Sequence[int]) -> list[dict[str, object]]:
    """The products as plain JSON values: name, number, quantity in the whole, names of the products that each stands ``of``,
    and how many bodies one of it has itself.

    ``bodies`` is of each body of the part the row of its product.
    """
    count = quantities(products)
    own = Counter(bodies)
    above: list[dict[str, None]] = [{} for _ in products]
    for p in products:
        for row in p.uses:
            above[row][p.name] = None
    return [
        {
            "name": p.name,
            "number": p.number,
            "quantity": count[row],
            "of": list(above[row]),
            "bodies": own[row] // max(count[row], 1),
        }
        for row, p in enumerate(products)
    ]
