"""The chunks of a recording that were looked at last."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Hashable
from typing import Generic, TypeVar

_T = TypeVar("_T")
KEPT_BYTES = 96_000_000
_LEAST = 2  # chunks: a picture always spans two


class ChunkCache(Generic[_T]):
    """Makes what is asked for and not there; lets go of what was not asked for longest, once it holds too much."""

    def __init__(self, make: Callable[[int], _T], size: Callable[[_T], int], most_bytes: int = KEPT_BYTES) -> None:
        self._make, self._size, self._most = make, size, most_bytes
        self._kept: OrderedDict[Hashable, _T] = OrderedDict()
        self._held = 0

    def __contains__(self, number: int) -> bool:
        return number in self._kept

    def __len__(self) -> int:
        return len(self._kept)

    def __getitem__(self, number: int) -> _T:
        if number in self._kept:
            self._kept.move_to_end(number)
            return self._kept[number]
        made = self._kept[number] = self._make(number)
        self._held += self._size(made)
        while self._held > self._most and len(self._kept) > _LEAST:
            self._held -= self._size(self._kept.popitem(last=False)[1])
        return made

    def forget_from(self, number: int) -> None:
        """Forget a chunk and those after it: they have more in them now."""
        for k in [k for k in self._kept if isinstance(k, int) and k >= number]:
            self._held -= self._size(self._kept.pop(k))

    def clear(self) -> None:
        """Forget all."""
        self._kept.clear()
        self._held = 0
