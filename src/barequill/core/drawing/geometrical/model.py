"""What a tolerance frame says (ISO 1101), as values of the document."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field

from ...bounds import Affix, Figure
from ...standards.geometrical import Characteristic, DatumModifier, Modifier, Zone
from ..base import Model

Letters = Annotated[str, Field(pattern=r"^[A-Z]{1,2}$")]
Length = Annotated[float, Field(gt=0, le=1e5, allow_inf_nan=False)]


class DatumCell(Model):
    """One cell of datums: a single one, or a common datum of several features, with what modifies it."""

    letters: Annotated[list[Letters], Field(min_length=1, max_length=4)]
    modifiers: Annotated[list[DatumModifier], Field(max_length=4)] = []

    @property
    def name(self) -> str:
        """As it is written: ``A``, or ``A-B``."""
        return "-".join(self.letters)


class PlaneIndicator(Model):
    """Beside a frame: the plane in which, or the feature along which, it is meant, by its relation to a datum."""

    kind: Literal["intersection", "orientation", "direction", "collection"]
    relation: Literal["parallel", "perpendicular", "angle", "symmetrical", "run-out"]
    datum: DatumCell


class FrameRow(Model):
    """One row of a frame. ``value`` in the drawing's unit; ``projected`` the length of Ⓟ, ``offset`` that of Ⓤ or UZ;
    ``per`` a length, two sides of an area, or the diameter of a round one (``per_round``)."""

    characteristic: Characteristic
    zone: Zone = "width"
    value: Annotated[float, Field(ge=0, le=1e4, allow_inf_nan=False)]
    modifiers: Annotated[list[Modifier], Field(max_length=8)] = []
    projected: Length | None = None
    offset: Figure | None = None
    per: Annotated[list[Length], Field(max_length=2)] = []
    per_round: bool = False
    datums: Annotated[list[DatumCell], Field(max_length=6)] = []


class Frame(Model):
    """A tolerance frame: its rows, and what stands about it. ``count`` features for which it is meant, ``around`` the outline
    or ``over`` the whole part, ``between`` two points, lines of text ``above`` and ``below``."""

    rows: Annotated[list[FrameRow], Field(min_length=1, max_length=6)]
    planes: Annotated[list[PlaneIndicator], Field(max_length=4)] = []
    count: Annotated[int, Field(ge=1, le=9999)] = 1
    around: Literal["", "around", "over"] = ""
    between: tuple[Letters, Letters] | None = None
    above: Affix = ""
    below: Affix = ""

    @property
    def datums(self) -> list[str]:
        """All letters of datums that it refers to, in their order."""
        found = [x for row in self.rows for cell in row.datums for x in cell.letters]
        found += [x for plane in self.planes for x in plane.datum.letters]
        return list(dict.fromkeys(found))

    def as_json(self) -> dict[str, Any]:
        """Rows as plain data: what is as usual is left out."""
        return {"rows": [_row_as_json(r) for r in self.rows]} | {
            k: v for k, v in self.model_dump(exclude={"rows"}, exclude_defaults=True).items()
        }


def _row_as_json(row: FrameRow) -> dict[str, Any]:
    found: dict[str, Any] = {
        "characteristic": row.characteristic,
        "zone": row.zone,
        "value": row.value,
        "modifiers": list(row.modifiers),
        "datums": [[cell.name, list(cell.modifiers)] for cell in row.datums],
    }
    return found | row.model_dump(include={"projected", "offset", "per", "per_round"}, exclude_defaults=True)
