"""Columns that read whatever lies in them: a value that is damaged closes nothing but itself."""

from __future__ import annotations

from collections.abc import Callable
from datetime import UTC, datetime
from typing import Any

from pydantic_core import from_json, to_json
from sqlalchemy import Float, Integer, LargeBinary, String
from sqlalchemy.types import TypeDecorator


class Spoilt:
    """A value that is not what was once written."""

    def __init__(self, value: Any) -> None:
        self.value = value

    def __repr__(self) -> str:
        return f"Spoilt({str(self.value)[:40]!r})"


def _reader(read: Callable[[Any], Any]) -> Callable[[Any], Any]:
    def found(value: Any) -> Any:
        if value is None:
            return None
        try:
            return read(value)
        except (ValueError, TypeError, OverflowError, RecursionError):
            return Spoilt(value)

    return found


class _Loose(TypeDecorator):
    """A column whose values come from the database as they are, then are read; those that cannot be are :class:`Spoilt`."""

    def result_processor(self, dialect: Any, coltype: Any) -> Callable[[Any], Any]:
        return _reader(self.read)

    def read(self, value: Any) -> Any:
        """A value out of what the database gave."""
        raise NotImplementedError


class Json(_Loose):
    """Plain values, as JSON."""

    impl, cache_ok = String, True

    def process_bind_param(self, value: Any, dialect: Any) -> str | None:
        return None if value is None else to_json(value).decode()

    def read(self, value: Any) -> Any:
        return from_json(value)


class Moment(_Loose):
    """A time in UTC."""

    impl, cache_ok = String, True

    def process_bind_param(self, value: datetime | None, dialect: Any) -> str | None:
        return None if value is None else value.astimezone(UTC).replace(tzinfo=None).isoformat(" ", "microseconds")

    def read(self, value: Any) -> datetime:
        return datetime.fromisoformat(value)


class Words(_Loose):
    """A text."""

    impl, cache_ok = String, True

    def read(self, value: Any) -> str:
        return value.decode(errors="replace") if isinstance(value, bytes) else str(value)


class Whole(_Loose):
    """A whole number."""

    impl, cache_ok = Integer, True

    def read(self, value: Any) -> int:
        if isinstance(value, float) or abs(int(value)) >= 2**63:
            raise ValueError
        return int(value)


class Real(_Loose):
    """A figure."""

    impl, cache_ok = Float, True

    def read(self, value: Any) -> float:
        return float(value)


class Bytes(_Loose):
    """Bytes."""

    impl, cache_ok = LargeBinary, True

    def read(self, value: Any) -> bytes:
        return value if isinstance(value, bytes) else str(value).encode()
