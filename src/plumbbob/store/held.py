"""Rows as they were read, made into values only where somebody looks: a hundred thousand are there at once."""

from __future__ import annotations

import bisect
import math
from collections.abc import Iterator, Mapping, Sequence
from typing import Any, Generic, TypeVar, overload

import numpy as np
from numpy.typing import NDArray

from plumbbob.store.rows import value_of
from plumbbob.store.tables import columns, sorted_by

V = TypeVar("V")
Cells = Sequence[Any]


class Held(Sequence[V], Generic[V]):
    """Values of one kind, by time (those without one last), then by number. Changes make a new one of it."""

    def __init__(self, cls: type[V], rows: list[Cells], made: dict[int, V] | None = None) -> None:
        self.cls = cls
        self.names = columns(cls)
        self._order = self.names.index(sorted_by(cls))
        self._rows = rows
        self._made: dict[int, V] = {} if made is None else made
        self._at: dict[int, int] | None = None
        self._columns: dict[str, Any] = {}

    def __len__(self) -> int:
        return len(self._rows)

    @overload
    def __getitem__(self, index: int) -> V: ...
    @overload
    def __getitem__(self, index: slice) -> list[V]: ...
    def __getitem__(self, index: int | slice) -> V | list[V]:
        if isinstance(index, slice):
            return [self._value(row) for row in self._rows[index]]
        return self._value(self._rows[index])

    def __iter__(self) -> Iterator[V]:
        return (self._value(row) for row in self._rows)

    def __eq__(self, other: object) -> bool:
        if isinstance(other, Held):
            return self is other or (self.cls is other.cls and self._rows == other._rows)
        return isinstance(other, Sequence) and list(self) == list(other)

    def __hash__(self) -> int:
        return id(self)

    def __repr__(self) -> str:
        return f"Held({list(self)!r})"

    def _value(self, row: Cells) -> V:
        made = self._made.get(row[0])
        if made is None:
            made = self._made[row[0]] = value_of(self.cls, dict(zip(self.names, row, strict=True)))
        return made

    def by_id(self, number: int | None) -> V | None:
        """The one with a number, if it is there."""
        if self._at is None:
            self._at = {row[0]: k for k, row in enumerate(self._rows)}
        k = self._at.get(number) if number is not None else None
        return None if k is None else self._value(self._rows[k])

    def by_ref(self, ref: str) -> V | None:
        """The one of a name for files, if it is there."""
        if "#ref" not in self._columns:
            self._columns["#ref"] = dict(zip(self.cells("ref"), range(len(self._rows)), strict=True))
        k = self._columns["#ref"].get(ref) if ref else None
        return None if k is None else self._value(self._rows[k])

    def cells(self, name: str) -> list[Any]:
        """One column as it was read; None where nothing is known."""
        if name not in self._columns:
            k = self.names.index(name)
            self._columns[name] = [row[k] for row in self._rows]
        return self._columns[name]

    def numbers(self, name: str) -> NDArray[np.float64]:
        """One column as numbers, NaN where nothing is known."""
        key = f"#{name}"
        if key not in self._columns:
            self._columns[key] = np.array(self.cells(name), dtype=np.float64)
        return self._columns[key]

    def with_changes(self, changed: Mapping[int, Cells | None]) -> Held[V]:
        """The same with some rows otherwise, or gone (None)."""
        rows = [row for row in self._rows if row[0] not in changed]
        for row in changed.values():
            if row is not None:
                bisect.insort(rows, row, key=self._key)
        return Held(self.cls, rows, {k: v for k, v in self._made.items() if k not in changed})

    def _key(self, row: Cells) -> tuple[float, int]:
        when = row[self._order]
        return (math.inf if when is None else float(when), int(row[0]))

    @classmethod
    def in_order(cls, kind: type[V], rows: list[Cells]) -> Held[V]:
        """Of sound rows in any order."""
        k = columns(kind).index(sorted_by(kind))
        when = np.array([row[k] for row in rows], dtype=np.float64)
        numbers = np.array([row[0] for row in rows], dtype=np.int64)
        order = np.lexsort((numbers, when))  # what is not known comes last
        return cls(kind, [rows[i] for i in order.tolist()])
