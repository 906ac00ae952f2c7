"""
The plan of a day: which places, in what order, from when to when, so that most fish are to be expected.

An order is valued by dynamic programming over the clock: the best that can have been gained by the time one leaves a
place, for all times at once. Orders are searched by putting in, taking out, moving and turning round, from many
starts; few places are solved for all orders at once. At the end the times are set to the second.
"""

from __future__ import annotations

import math
from collections.abc import Collection, Sequence
from itertools import pairwise

import numpy as np

from plumbbob.core.plan.day import CannotPlan, Day, Plan, Spot
from plumbbob.core.plan.timetable import SWEEPS, Timetable
from plumbbob.core.types import Floats, Progress

# steps of the clock: the fewer places, the finer
_STEPS, _LEAST_STEP_S = ((8, 144), (14, 96), (math.inf, 64)), 60.0
_EXACT = 6  # so many places and fewer are solved for all orders
_MUST = 1e6  # what a place that must be in is worth beside its fish
_WORK, _QUIET = 900, 12  # places times starts anew; so many in a row without gain end it
_MOST_EXACT_MUSTS = 10
_MOST_KEPT = 20_000
_FEW, _CLOSE = 8, 0.03  # orders set to the second, and how close to the best they are
_NEAR, _SHORT = 14, 2.0  # candidates to exchange a place for, by worth for so many steps more than the way
_NEVER, _LOW = -1e12, -1e9  # what cannot be; anything under the second is
_FEW_SWEEPS = 4


def plan_day(day: Day, near: Sequence[int] | None = None, progress: Progress = lambda fraction: None) -> Plan:
    """
    The day with most expected fish.

    Parameters
    ----------
    near : sequence of int, optional
        An order of spots to begin with, as while a hand drags: it is improved as far as single steps go, and no
        further, which takes a tenth of the time.
    progress : callable
        Told now and then; may raise to end it.

    Raises
    ------
    CannotPlan
        Where the end or a place that must be in cannot be reached in time.
    """
    straight = float(day.seconds[day.first, day.last])
    if not day.start + straight <= day.end + 1e-6:
        raise CannotPlan(
            "the end cannot be reached"
            if not math.isfinite(straight)
            else "the day is shorter than the way to its end"
        )
    search = _Search(day, _STEPS[-1][1] if near is not None else None)
    order = search.seed()
    if near is not None:
        kept = [k for k in near if k in search.open]
        kept += [k for k in order if k not in kept]
        best = _timed(day, search, search.climbed(kept if search.value(kept) > _LOW else order))
        best.settle(_FEW_SWEEPS)
        return best.plan()
    orders = search.exact() if 0 < len(search.open) <= _EXACT else search.improved(order, progress)
    # the clock's grid may prefer one order to another that is as good: the best few are set to the second
    timed = [_timed(day, search, one) for one in orders]
    best = max(timed, key=Timetable.total)
    best.settle(SWEEPS)
    return best.plan()


class _Shift:
    """Values by time, so many steps later for each pair of places; straight between, never before or after."""

    def __init__(self, steps: Floats, n: int) -> None:
        at = np.arange(n)[None, None, :] - np.where(np.isfinite(steps), steps, 10.0 * n)[:, :, None]
        self._padded = np.full(n + 1, _NEVER)
        inside = (at >= 0) & (at <= n - 1)
        low = np.floor(at)
        self._share = np.where(inside, at - low, 0.0)
        self._low = np.where(inside, low, n).astype(np.intp)
        self._high = np.where(inside, np.minimum(low + (self._share > 1e-9), n - 1), n).astype(np.intp)

    def of(self, values: Floats, a: int | Floats, b: int | Floats) -> Floats:
        """Shape (times,), or one row for each of several pairs."""
        self._padded[:-1] = values
        low = self._padded[self._low[a, b]]
        return np.asarray(low + (self._padded[self._high[a, b]] - low) * self._share[a, b])


class _Search:
    """Values orders on a grid of the clock."""

    def __init__(self, day: Day, steps: int | None = None) -> None:
        self.day = day
        span = max(day.end - day.start, 1.0)
        steps = steps or next(many for most, many in _STEPS if len(day.spots) <= most)
        self.step = max(span / steps, _LEAST_STEP_S) if span > _LEAST_STEP_S * 8 else span / 8
        count = math.ceil(span / self.step - 1e-9) + 1
        self.clock: Floats = np.minimum(day.start + self.step * np.arange(count, dtype=np.float64), day.end)
        self.open = [
            k
            for k in range(len(day.spots))
            if (day.spots[k].fish * day.spots[k].per_hour > 0 or day.spots[k].must) and self._alone(k)
        ]
        self.table = {k: self._gains(day.spots[k]) for k in self.open}
        # no time to the end is left beyond these
        self.latest = {k: day.end - float(day.seconds[k, day.last]) for k in (*self.open, day.first)}
        nodes = [*self.open, day.first]
        self.row = {k: i for i, k in enumerate(nodes)}
        self.shift = np.asarray(day.seconds[np.ix_(nodes, nodes)], np.float64) / self.step  # steps of the clock
        self._still = np.zeros(self.clock.size)
        self._fore: dict[tuple[int, ...], Floats] = {}
        self._coming: dict[tuple[int, ...], Floats] = {}
        self.later, self.sooner = _Shift(self.shift, self.clock.size), _Shift(-self.shift, self.clock.size)
        self.value_alone = np.array([np.max(self.table[k], initial=0.0) for k in self.open])
        self.tables = np.array([self.table[k] for k in self.open]) if self.open else np.zeros((0, 0, 0))

    def _alone(self, k: int) -> bool:
        """Whether it can be visited at all."""
        spot, day = self.day.spots[k], self.day
        arrive = max(day.start + float(day.seconds[day.first, k]), spot.not_before)
        leave = arrive + spot.least_s
        return leave <= min(spot.not_after, day.end - float(day.seconds[k, day.last])) + 1e-6

    def _gains(self, spot: Spot) -> Floats:
        """Fish of staying from any time of the clock to any other, shape (from, to); never where not allowed."""
        t = self.clock
        out = np.full((t.size, t.size), _NEVER)
        stay = t[None, :] - t[:, None]
        slack = self.step / 2 + 1e-6  # the times are set exactly at the end
        cuts = sorted({c for one in spot.times for c in (one.start, one.end)})
        gain = np.zeros(stay.shape)
        edges = [-math.inf, *cuts, math.inf]
        for a, b in pairwise(edges):
            middle = (max(a, t[0] - 1.0) + min(b, t[-1] + 1.0)) / 2
            factor = spot.factor(middle)
            low = np.maximum(t[:, None], a)
            high = np.minimum(t[None, :], b)
            ok = high > low
            rate = spot.per_hour / 3600.0
            piece = spot.fish * (
                np.exp(-rate * np.maximum(low - t[:, None], 0.0)) - np.exp(-rate * np.maximum(high - t[:, None], 0.0))
            )
            gain += np.where(ok, factor * piece, 0.0)
        allowed = (stay >= spot.least_s - slack * (spot.least_s > 0)) & (stay <= spot.most_s + slack) & (stay >= 0)
        allowed &= (t >= spot.not_before - slack)[:, None] & (t <= spot.not_after + slack)[None, :]
        out[allowed] = gain[allowed]
        return out + (_MUST if spot.must else 0.0)

    # -- values along the clock ---------------------------------------------------------------------------------

    def arriving(self, gained: Floats, a: int, b: int) -> Floats:
        """Gained by the time one is at b, having left a with `gained` at any time; straight between times."""
        return self.later.of(gained, self.row[a], self.row[b])

    def staying(self, arrived: Floats, k: int) -> Floats:
        """Gained by the time one leaves k, having come with `arrived`; later never less."""
        best = (arrived[:, None] + self.table[k]).max(axis=0)
        best[self.clock > self.latest[k] + 1e-6] = _NEVER
        return np.maximum.accumulate(best)

    def after(self, gained: Floats, a: int, k: int) -> Floats:
        """Gained by the time one leaves k, coming from a."""
        return self.staying(self.arriving(gained, a, k), k)

    def value(self, order: Sequence[int]) -> float:
        """Fish of an order; minus infinity where it can't be."""
        return float(self.fore(tuple(order))[-1]) if order else 0.0

    def fore(self, order: tuple[int, ...]) -> Floats:
        """Gained by the time one leaves the last of an order."""
        if not order:
            return self._still
        known = self._fore.get(order)
        if known is None:
            if len(self._fore) > _MOST_KEPT:
                self._fore.clear()
            before = order[-2] if len(order) > 1 else self.day.first
            known = self._fore[order] = self.after(self.fore(order[:-1]), before, order[-1])
        return known

    def coming(self, order: tuple[int, ...]) -> Floats:
        """To be gained on coming to the first of an order at any time; waiting is free."""
        known = self._coming.get(order)
        if known is None:
            if len(self._coming) > _MOST_KEPT:
                self._coming.clear()
            k = order[0]
            leave = np.where(self.clock <= self.latest[k] + 1e-6, self.aft(k, order[1:]), _NEVER)
            arrive = (self.table[k] + leave[None, :]).max(axis=1)
            known = self._coming[order] = np.maximum.accumulate(arrive[::-1])[::-1]
        return known

    def aft(self, before: int, order: tuple[int, ...]) -> Floats:
        """Still to be gained when leaving a place for an order."""
        if not order:
            return self._still
        return self.sooner.of(self.coming(order), self.row[before], self.row[order[0]])

    def arrivals(self, order: Sequence[int]) -> list[float]:
        """When to come to each place of an order for the most fish, on the clock's grid."""
        out: list[float] = []
        leave = self.clock.size - 1
        for i in range(len(order) - 1, -1, -1):
            k, before = order[i], order[i - 1] if i else self.day.first
            gained = self.fore(tuple(order[: i + 1]))
            leave = int(np.argmax(gained[: leave + 1] >= gained[: leave + 1].max() - 1e-12))
            arrived = self.arriving(self.fore(tuple(order[:i])), before, k) + self.table[k][:, leave]
            come = int(np.argmax(arrived))
            out.append(float(self.clock[come]))
            leave = max(int((self.clock[come] - float(self.day.seconds[before, k]) - self.clock[0]) / self.step), 0)
        return out[::-1]

    # -- orders -------------------------------------------------------------------------------------------------

    def seed(self) -> list[int]:
        """An order of all places that must be in; CannotPlan where there is none."""
        day = self.day
        musts = [k for k, spot in enumerate(day.spots) if spot.must]
        lost = next((k for k in musts if k not in self.open), None)
        if lost is not None:
            raise CannotPlan(f"{day.spots[lost].name} must be in and cannot be reached in time")
        if not musts:
            return []
        order = _earliest(day, musts)
        if order is None:
            raise CannotPlan("the places that must be in do not fit into the day together")
        return order

    def _best_few(self, tried: dict[tuple[int, ...], float]) -> list[list[int]]:
        """The best orders of those tried, those much worse left out."""
        ranked = sorted(tried, key=lambda order: -tried[order])[:_FEW]
        most = tried[ranked[0]]
        return [list(order) for order in ranked if tried[order] >= most - _CLOSE * abs(most % _MUST)]

    def exact(self) -> list[list[int]]:
        """Best of all orders: for each set of places and the last, the best by every time (Held & Karp 1962)."""
        musts = sum(1 << i for i, k in enumerate(self.open) if self.day.spots[k].must)
        tried: dict[tuple[int, ...], float] = {tuple(self.seed()): _NEVER if musts else 0.0}
        layer: dict[tuple[int, int], dict[tuple[int, ...], Floats]] = {}
        for i, k in enumerate(self.open):
            layer[1 << i, i] = {(k,): self.fore((k,))}
        while layer:
            following: dict[tuple[int, int], dict[tuple[int, ...], Floats]] = {}
            for (taken, i), orders in layer.items():
                # of orders of the same places only those that are best at some time go on
                top = np.maximum.reduce(list(orders.values()))
                for order, gained in orders.items():
                    if not np.any((gained >= top - 1e-12) & (gained > _LOW)):
                        continue
                    if taken & musts == musts and float(gained[-1]) > _LOW:
                        tried[order] = float(gained[-1])
                    for j, k in enumerate(self.open):
                        if not taken >> j & 1:
                            to = following.setdefault((taken | 1 << j, j), {})
                            to[(*order, k)] = self.after(gained, self.open[i], k)
            layer = following
        return self._best_few(tried)

    def improved(self, order: list[int], progress: Progress = lambda fraction: None) -> list[list[int]]:
        """Put in, take out, move, turn round until nothing helps; then from starts shaken at random again."""
        rng = np.random.default_rng(len(self.open) + 7)
        best = self.climbed(order)
        value = self.value(best)
        known = {tuple(best): value}
        quiet = 0
        rounds = max(_WORK // max(len(self.open), 1), 8)
        for turn in range(rounds):
            progress(turn / rounds)
            if quiet >= _QUIET or not self.open:
                break
            shaken = list(best)
            # take a run of them out, and turn another round
            if shaken:
                many = int(rng.integers(1, max(len(shaken) // 2, 1) + 1))
                at = int(rng.integers(0, len(shaken) - many + 1))
                gone = [k for k in shaken[at : at + many] if not self.day.spots[k].must]
                shaken = [k for k in shaken if k not in gone]
            if len(shaken) > 2 and rng.random() < 0.5:
                a, b = sorted(rng.choice(len(shaken) + 1, 2, replace=False).tolist())
                shaken[a:b] = shaken[a:b][::-1]
            if self.value(shaken) < _LOW:
                quiet += 1
                continue
            banned = {int(k) for k in rng.choice(self.open, min(len(self.open) // 5, 6), replace=False)}
            tried = self.climbed(self.climbed(shaken, banned))
            now = known[tuple(tried)] = self.value(tried)
            if now > value + 1e-9:
                best, value, quiet = tried, now, 0
            else:
                quiet += 1
        return self._best_few(known)

    def climbed(self, order: list[int], banned: Collection[int] = ()) -> list[int]:
        """The order, better by one step after the other until no step helps."""
        value = self.value(order)
        while True:
            changed = self._put_in(order, value, banned)
            if changed is None:
                changed = self._exchanged(order, value, banned)
            if changed is None:
                changed = self._turned(order, value)
            if changed is None:
                return order
            order, value = changed

    def _put_in(self, order: list[int], value: float, banned: Collection[int]) -> tuple[list[int], float] | None:
        """The best place more, wherever it brings most."""
        rest = [k for k in self.open if k not in order and k not in banned]
        if not rest:
            return None
        whole = tuple(order)
        rows = np.array([self.row[k] for k in rest])
        latest = self.clock[None, :] > np.array([self.latest[k] for k in rest])[:, None] + 1e-6
        tables = self.tables[rows]
        chosen, best = None, value + 1e-9
        for i in range(len(order) + 1):
            before = self.row[order[i - 1]] if i else len(self.open)
            arrived = self.later.of(self.fore(whole[:i]), before, rows)
            left = (arrived[:, :, None] + tables).max(axis=1)
            left[latest] = _NEVER
            if i == len(order):
                now = left.max(axis=1)
            else:
                now = (left + self.sooner.of(self.coming(whole[i:]), rows, self.row[order[i]])).max(axis=1)
            k = int(np.argmax(now))
            if float(now[k]) > best:
                chosen, best = (i, rest[k]), float(now[k])
        if chosen is None:
            return None
        made = [*order[: chosen[0]], chosen[1], *order[chosen[0] :]]
        exact = self.value(made)
        return (made, exact) if exact > value + 1e-9 else None

    def _exchanged(self, order: list[int], value: float, banned: Collection[int]) -> tuple[list[int], float] | None:
        """One place out, and the best other or the same one elsewhere in."""
        best: tuple[list[int], float] | None = None
        for i, k in enumerate(order):
            less = [*order[:i], *order[i + 1 :]]
            without = self.value(less)
            if without < _LOW:
                continue
            most = best[1] if best else value
            if not self.day.spots[k].must and without > most + 1e-9:
                best = less, without
                most = without
            near = {k} if self.day.spots[k].must else {k, *self._neighbours(order, i)}
            made = self._put_in(less, most, set(banned) | {m for m in self.open if m not in near})
            if made is not None:
                best = made
        return best

    def _neighbours(self, order: list[int], i: int) -> list[int]:
        """Places that bring much for the way from those about the i-th of an order."""
        a = self.row[order[i - 1]] if i else len(self.open)
        way = self.shift[a, :-1] + self.shift[self.row[order[i]], :-1]
        worth = self.value_alone / (way + _SHORT)
        return [self.open[j] for j in np.argsort(-worth)[:_NEAR].tolist()]

    def _turned(self, order: list[int], value: float) -> tuple[list[int], float] | None:
        """A part of the order turned round."""
        for a in range(len(order) - 1):
            for b in range(a + 2, len(order) + 1):
                made = [*order[:a], *order[a:b][::-1], *order[b:]]
                now = self.value(made)
                if now > value + 1e-9:
                    return made, now
        return None


def _earliest(day: Day, musts: list[int]) -> list[int] | None:
    """An order of places in which each is left as early as can be; None where there is none."""
    if len(musts) > _MOST_EXACT_MUSTS:
        return _nearest_first(day, musts)
    states: dict[tuple[int, int], tuple[float, list[int]]] = {(0, day.first): (day.start, [])}
    for _ in musts:
        following: dict[tuple[int, int], tuple[float, list[int]]] = {}
        for (taken, at), (time, order) in states.items():
            for i, k in enumerate(musts):
                if taken >> i & 1:
                    continue
                leave = _leave_first(day, time, at, k)
                key = (taken | 1 << i, k)
                if leave is not None and (key not in following or leave < following[key][0]):
                    following[key] = leave, [*order, k]
        states = following
    done = min(states.values(), default=None, key=lambda s: s[0])
    return done[1] if done is not None else None


def _leave_first(day: Day, time: float, at: int, k: int) -> float | None:
    spot = day.spots[k]
    leave = max(time + float(day.seconds[at, k]), spot.not_before) + spot.least_s
    latest = min(spot.not_after, day.end - float(day.seconds[k, day.last]))
    return leave if leave <= latest + 1e-6 else None


def _nearest_first(day: Day, musts: list[int]) -> list[int] | None:
    """For many: by the end of their windows, then put in wherever they still fit."""
    order: list[int] = []
    for k in sorted(musts, key=lambda k: (day.spots[k].not_after, float(day.seconds[day.first, k]))):
        for i in range(len(order), -1, -1):
            made = [*order[:i], k, *order[i:]]
            time: float | None = day.start
            at = day.first
            for m in made:
                time = _leave_first(day, time, at, m) if time is not None else None
                at = m
            if time is not None:
                order = made
                break
        else:
            return None
    return order


def _timed(day: Day, search: _Search, order: list[int]) -> Timetable:
    """The times of an order, all but settled; what does not fit after all is left."""
    while True:
        times = Timetable(day, order, search.arrivals(order))
        if times.made_possible():
            break
        free = [k for k in order if not day.spots[k].must]
        if not free:
            raise CannotPlan("the places that must be in do not fit into the day together")
        least = min(free, key=lambda k: day.spots[k].fish * day.spots[k].per_hour)
        order = [k for k in order if k != least]
    times.settle(_FEW_SWEEPS)
    return times
