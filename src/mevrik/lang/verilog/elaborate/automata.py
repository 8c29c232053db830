"""Sequences (IEEE 1800-2017 16.9) as automata that take a step at each tick of their clock, and how they are put together."""

from __future__ import annotations

from mevrik.design import nodes as n
from mevrik.design.record import Value, field
from mevrik.design.types import BIT

TRUE = n.Const(BIT, 1)


class Automaton(Value):
    """States that are left by consuming one tick. `ends`: states that are reached when the sequence has matched."""

    states: int = 0
    starts: set[int] = field(default_factory=set)
    ends: set[int] = field(default_factory=set)
    moves: list[tuple[int, n.Expr, int]] = field(default_factory=list)
    empty: bool = False  # it also matches without a tick
    cuts: list[tuple[frozenset[int], frozenset[int]]] = field(
        default_factory=list
    )  # once one of the second is reached, the first are left

    def state(self) -> int:
        self.states += 1
        return self.states - 1

    def copy_of(self, other: Automaton) -> dict[int, int]:
        """Take over the states and moves of another one."""
        place = {s: self.state() for s in range(other.states)}
        self.moves += [(place[a], c, place[b]) for a, c, b in other.moves]
        self.cuts += [(frozenset(place[s] for s in left), frozenset(place[s] for s in at)) for left, at in other.cuts]
        return place


class Ordered(n.Expr):
    """A move with something to do: its conditions, and between them what is done once those before it hold."""

    steps: tuple[n.Expr | list[n.Stmt], ...]


def steps_of(label: n.Expr) -> tuple[n.Expr | list[n.Stmt], ...]:
    return label.steps if isinstance(label, Ordered) else () if label is TRUE else (label,)


def both(a: n.Expr, b: n.Expr) -> n.Expr:
    if a is TRUE or b is TRUE:
        return b if a is TRUE else a
    if isinstance(a, Ordered) or isinstance(b, Ordered):
        return Ordered(BIT, (*steps_of(a), *steps_of(b)))
    return n.Binary(BIT, "&&", a, b)


def matched(a: Automaton, actions: list[n.Stmt]) -> Automaton:
    """`(a, actions)`: they are done at each match."""
    a.moves = [(p, both(c, Ordered(BIT, (actions,))) if q in a.ends else c, q) for p, c, q in a.moves]
    return a


def first(a: Automaton) -> Automaton:
    """`first_match (a)`: once it has matched, what else was under way in it is given up (16.9.8)."""
    a.cuts.append((frozenset(range(a.states)) - a.ends, frozenset(a.ends)))
    return a


def compact(a: Automaton) -> Automaton:
    """The same without what leads nowhere: all ends that are left by no move are one, other such states are none."""
    left = {p for p, _, _ in a.moves}
    if a.cuts:
        return a
    made = Automaton(empty=a.empty)
    place = {s: made.state() for s in range(a.states) if s in left}
    if closing := a.ends - left:
        end = made.state()
        place.update(dict.fromkeys(closing, end))
    seen: set[tuple[int, int, int]] = set()
    for p, c, q in a.moves:
        if q in place and (key := (place[p], id(c), place[q])) not in seen:
            seen.add(key)
            made.moves.append((place[p], c, place[q]))
    made.starts = {place[s] for s in a.starts if s in place}
    made.ends = {place[s] for s in a.ends}
    return made


def condition_of(a: Automaton) -> n.Expr | None:
    """The condition that is all of a sequence of one tick."""
    if a.empty or len(a.moves) != 1 or a.cuts:
        return None
    p, cond, q = a.moves[0]
    return cond if a.starts == {p} and a.ends == {q} else None


def either_of(labels: list[n.Expr]) -> n.Expr | None:
    """Whether one of these holds; None if one always does."""
    return any_of(labels) if labels and not any(label is TRUE for label in labels) else None


def any_of(conditions: list[n.Expr]) -> n.Expr:
    """Whether one of these holds. However many they are, the expression is not nested deeply."""
    if len(conditions) == 1:
        return conditions[0]
    middle = len(conditions) // 2
    return n.Binary(BIT, "||", any_of(conditions[:middle]), any_of(conditions[middle:]))


def leading_to_an_end(a: Automaton) -> set[int]:
    """The states from which it can still match."""
    found = set(a.ends)
    while more := {p for p, _, q in a.moves if q in found} - found:
        found |= more
    return found


def is_of_one_length(a: Automaton) -> bool:
    """Whether each match of it takes as many ticks as any other."""
    if a.empty:
        return not a.moves
    level = dict.fromkeys(a.starts, 0)
    todo = list(a.starts)
    for p in todo:
        for q in {q for s, _, q in a.moves if s == p}:
            if level.setdefault(q, level[p] + 1) != level[p] + 1:
                return False
            if q not in todo:
                todo.append(q)
    return len({level[q] for q in a.ends if q in level}) <= 1


def letter(cond: n.Expr) -> Automaton:
    made = Automaton()
    a, b = made.state(), made.state()
    made.starts, made.ends, made.moves = {a}, {b}, [(a, cond, b)]
    return made


def nothing() -> Automaton:
    return Automaton(empty=True)


def fused(a: Automaton, b: Automaton) -> Automaton:
    """`a ##0 b`: the last tick of the one is the first of the other."""
    made = Automaton()
    pa, pb = made.copy_of(a), made.copy_of(b)
    made.starts = {pa[s] for s in a.starts}
    made.ends = {pb[s] for s in b.ends}
    for p, c, q in a.moves:
        if q in a.ends:
            made.moves += [(pa[p], both(c, d), pb[r]) for s, d, r in b.moves if s in b.starts]
    return made


def joined(a: Automaton, b: Automaton) -> Automaton:
    """`a ##1 b`; an empty match of either leaves the other (16.9.2.1)."""
    made = Automaton(empty=a.empty and b.empty)
    pa, pb = made.copy_of(a), made.copy_of(b)
    made.starts = {pa[s] for s in a.starts} | ({pb[s] for s in b.starts} if a.empty else set())
    made.ends = {pb[s] for s in b.ends} | ({pa[s] for s in a.ends} if b.empty else set())
    for p, c, q in a.moves:
        if q in a.ends:
            made.moves += [(pa[p], c, pb[s]) for s in b.starts]
    return made


def either(a: Automaton, b: Automaton) -> Automaton:
    made = Automaton(empty=a.empty or b.empty)
    pa, pb = made.copy_of(a), made.copy_of(b)
    made.starts = {pa[s] for s in a.starts} | {pb[s] for s in b.starts}
    made.ends = {pa[s] for s in a.ends} | {pb[s] for s in b.ends}
    return made


def repeated(a: Automaton, low: int, high: int | None) -> Automaton:
    """`a[*low:high]`: copies one behind the other, each from the last required one on an end."""
    if high is None:
        return joined(repeated(a, low, low), star(a)) if low else star(a)
    made = Automaton(empty=low == 0 or a.empty)
    before: dict[int, int] = {}
    for k in range(1, high + 1):
        place = made.copy_of(a)
        starts = {place[s] for s in a.starts}
        made.moves += [(before[p], c, s) for p, c, q in a.moves if q in a.ends and before for s in starts]
        made.starts = made.starts if before else starts
        if k >= low or a.empty:
            made.ends |= {place[s] for s in a.ends}
        before = place
    return made


def star(a: Automaton) -> Automaton:
    """`a[*0:$]`."""
    made = Automaton(empty=True)
    place = made.copy_of(a)
    made.starts = {place[s] for s in a.starts}
    made.ends = {place[s] for s in a.ends}
    for p, c, q in a.moves:
        if q in a.ends:
            made.moves += [(place[p], c, s) for s in made.starts]
    return made


def product(a: Automaton, b: Automaton, same_end: bool) -> Automaton:
    """`a intersect b`, or `a and b` where the shorter one waits for the longer (16.9.5, 16.9.6)."""
    if not same_end:
        a, b = lingering(a), lingering(b)
    made = Automaton()
    place: dict[tuple[int, int], int] = {}

    def at(x: int, y: int) -> int:
        if (x, y) not in place:
            place[x, y] = made.state()
        return place[x, y]

    made.starts = {at(x, y) for x in a.starts for y in b.starts}
    for p, c, q in a.moves:
        for s, d, r in b.moves:
            made.moves.append((at(p, s), both(c, d), at(q, r)))
    made.ends = {k for (x, y), k in place.items() if x in a.ends and y in b.ends}
    for which, part in enumerate((a, b)):
        for left, reached in part.cuts:
            made.cuts.append(
                (
                    frozenset(k for s, k in place.items() if s[which] in left),
                    frozenset(k for s, k in place.items() if s[which] in reached),
                )
            )
    if not same_end:  # both wait only while the other still runs
        waits = {k for (x, y), k in place.items() if x == a.states - 1 and y == b.states - 1}
        made.moves = [m for m in made.moves if m[2] not in waits]
    return made


def lingering(a: Automaton) -> Automaton:
    """One that, having matched, goes on matching; the state of waiting is the last."""
    made = Automaton()
    place = made.copy_of(a)
    made.starts = {place[s] for s in a.starts}
    wait = made.state()
    made.ends = {place[s] for s in a.ends} | {wait}
    made.moves += [(place[s], TRUE, wait) for s in a.ends] + [(wait, TRUE, wait)]
    return made
