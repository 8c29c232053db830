"""Random programs over queues, dynamic and associative arrays and strings, beside lists, dictionaries and strings of Python
(IEEE 1800-2017 7.5 to 7.12, 6.16)."""

from __future__ import annotations

import random
from collections.abc import Callable

import pytest

from tests.conftest import Done
from tests.rows import prints

WORDS = ["weir", "Lock", "sluice", "a", "", "gate 12", "0x1f", "Paddle", "zz"]


def listed(values: list[int]) -> str:
    return "'{" + ", ".join(map(str, values)) + "}"


def keyed(values: dict[str, int]) -> str:
    return "'{" + ", ".join(f'"{k}":{v}' for k, v in sorted(values.items())) + "}"


def quotient(a: int, b: int) -> int:
    return abs(a) // b * (1 if a >= 0 else -1)


class Program:
    """Statements, and what they have to print."""

    def __init__(self, seed: int) -> None:
        self.pick = random.Random(seed)
        self.queues: dict[str, list[int]] = {"p": [], "q": [3, 1, 2]}
        self.map: dict[str, int] = {}
        self.text = "sluice"
        self.body: list[str] = ['q = \'{3, 1, 2}; s = "sluice";']
        self.wanted: list[str] = []

    def say(self, expression: str, value: object, form: str = "%0d") -> None:
        self.body.append(f'$display("{form}", {expression});')
        self.wanted.append(str(value))

    def step(self) -> None:
        self.pick.choice([self.change, self.change, self.ask, self.order, self.slices, self.keys, self.strings, self.loops])()

    def number(self) -> int:
        return self.pick.choice([0, 1, -1, 7, 100, -50, self.pick.randrange(-9, 10)])

    def queue(self) -> tuple[str, list[int]]:
        name = self.pick.choice("pq")
        return name, self.queues[name]

    def change(self) -> None:
        name, q = self.queue()
        v = self.number()
        what = self.pick.randrange(7)
        if what < 2:
            self.body.append(f"{name}.push_back({v});")
            q.append(v)
        elif what == 2:
            self.body.append(f"{name}.push_front({v});")
            q.insert(0, v)
        elif what == 3 and q:
            end = self.pick.choice(["back", "front"])
            self.say(f"{name}.pop_{end}()", q.pop(-1 if end == "back" else 0))
        elif what == 4:
            at = self.pick.randrange(len(q) + 1)
            self.body.append(f"{name}.insert({at}, {v});")
            q.insert(at, v)
        elif what == 5 and q:
            at = self.pick.randrange(len(q))
            self.body.append(f"{name}.delete({at});")
            del q[at]
        elif q:
            at = self.pick.randrange(-1, len(q) + 2)  # outside of it nothing is written; behind the last it grows (7.10.1)
            self.body.append(f"{name}[{at}] = {v};")
            if 0 <= at < len(q):
                q[at] = v
            elif at == len(q):
                q.append(v)
        self.say(name, listed(q), "%p")

    def ask(self) -> None:
        name, q = self.queue()
        if not q:
            self.say(f"{name}.size()", 0)
            return
        k = self.number()
        asked: list[tuple[str, object, str]] = [
            (f"{name}.sum()", sum(q), "%0d"),
            (f"{name}.sum with (item > {k} ? item : 0)", sum(x for x in q if x > k), "%0d"),
            (f"{name}.find with (item > {k})", listed([x for x in q if x > k]), "%p"),
            (f"{name}.find_index with (item <= {k})", listed([i for i, x in enumerate(q) if x <= k]), "%p"),
            (f"{name}.find_first with (item != {k})", listed([x for x in q if x != k][:1]), "%p"),
            (f"{name}.find_last_index(x) with (x == {k} || x.index == 1)", listed([i for i, x in enumerate(q) if x == k or i == 1][-1:]), "%p"),
            (f"{name}.min()", listed([min(q)]), "%p"),
            (f"{name}.max with (-item)", listed([min(q)]), "%p"),
            (f"{name}.unique()", listed(list(dict.fromkeys(q))), "%p"),
            (f"{name}.unique with (item % 3)", listed(self._first_of_each(q)), "%p"),
            (f"{{{k} inside {{{name}}}}}", int(k in q), "%0d"),
            (f"{name}.and() & 32'hff", self._folded(q) & 0xFF, "%0d"),
        ]  # fmt: skip
        self.say(*self.pick.choice(asked))

    @staticmethod
    def _first_of_each(q: list[int]) -> list[int]:
        first: dict[int, int] = {}
        for x in q:
            first.setdefault(x - 3 * quotient(x, 3), x)
        return list(first.values())

    @staticmethod
    def _folded(q: list[int]) -> int:
        found = -1
        for x in q:
            found &= x
        return found

    def order(self) -> None:
        name, q = self.queue()
        k = self.pick.randrange(1, 5)
        statement, key, turned = self.pick.choice([
            ("sort()", lambda x: x, False), ("rsort()", lambda x: x, True), (f"sort with (item % {k})", None, False), ("reverse()", None, True),
        ])  # fmt: skip
        self.body.append(f"{name}.{statement};")
        if statement == "reverse()":
            q.reverse()
        elif key is not None:
            q.sort(key=key, reverse=turned)
        else:  # which of equal keys comes first is open: only the keys are compared
            q.sort(key=lambda x: x - k * quotient(x, k))
            self.body.append(f"{name}.sort();")
            q.sort()
        self.say(name, listed(q), "%p")

    def slices(self) -> None:
        name, q = self.queue()
        other = "p" if name == "q" else "q"
        a, b = self.pick.randrange(-1, 5), self.pick.randrange(-1, 6)
        inside = q[max(a, 0) : b + 1] if b >= a else []
        what = self.pick.randrange(4)
        if what == 0:
            self.say(f"{name}[{a}:{b}]", listed(inside), "%p")
        elif what == 1:
            self.body.append(f"{other} = {{{name}[{a}:{b}], {a}, {name}}};")
            self.queues[other] = [*inside, a, *q]
        elif what == 2:
            self.body.append(f"{other} = {name}; {other}.push_back({a});")
            self.queues[other] = [*q, a]
        else:
            self.body.append(f"d = new[3]({name}); {other} = d;")
            self.queues[other] = [*q, 0, 0, 0][:3]
        for n in "pq":
            if len(self.queues[n]) > 12:
                self.queues[n] = self.queues[n][:5]
                self.body.append(f"{n} = {n}[0:4];")
        self.say(other, listed(self.queues[other]), "%p")

    def keys(self) -> None:
        key, v = self.pick.choice(WORDS), self.number()
        what = self.pick.randrange(6)
        if what < 2:
            self.body.append(f'm["{key}"] = {v};')
            self.map[key] = v
        elif what == 2:
            self.body.append(f'm["{key}"] += {v};')
            self.map[key] = self.map.get(key, 0) + v
        elif what == 3:
            self.body.append(f'm.delete("{key}");')
            self.map.pop(key, None)
        elif what == 4:
            self.say(f'm.exists("{key}")', int(key in self.map))
        else:
            call, found = self.pick.choice([
                ("first", min(self.map, default=None)), ("last", max(self.map, default=None)),
                ("next", min((k for k in self.map if k > key), default=None)), ("prev", max((k for k in self.map if k < key), default=None)),
            ])  # fmt: skip
            self.body.append(f'k = "{key}"; void\'(m.{call}(k));')
            self.say("k", key if found is None else found, "%s")
        self.say("m", keyed(self.map), "%p")

    def strings(self) -> None:
        word = self.pick.choice(WORDS)
        a, b = self.pick.randrange(-1, 4), self.pick.randrange(0, 8)
        t = self.text
        inside = t[a : b + 1] if 0 <= a <= b < len(t) else ""
        forms: list[tuple[str, object, str]] = [
            (f"s.substr({a}, {b})", inside, "%s"),
            ("s.toupper()", t.upper(), "%s"),
            (f'{{s, "{word}", "!"}}', t + word + "!", "%s"),
            (f'{{2{{s}}}} == {{s, "{word}"}}', int(t * 2 == t + word), "%0d"),
            ("s.len()", len(t), "%0d"),
            (f"s.getc({b})", ord(t[b]) if b < len(t) else 0, "%0d"),
            (f's < "{word}"', int(t < word), "%0d"),
            (f's.compare("{word}") > 0', int(t > word), "%0d"),
            (f's.icompare("{word}") == 0', int(t.lower() == word.lower()), "%0d"),
            ('$sformatf("%5s|%-4s|", s, s)', f"{t:>5}|{t:<4}|", "%s"),
        ]
        self.say(*self.pick.choice(forms))
        self.text = self.pick.choice([inside or "weir", word or "lock", t])
        self.body.append(f's = "{self.text}";')

    def loops(self) -> None:
        name, q = self.queue()
        k = self.pick.randrange(1, 4)
        what = self.pick.randrange(3)
        if what == 0:
            self.body.append(f"foreach ({name}[i]) if (i % 2) {name}[i] += {k};")
            q[:] = [x + k if i % 2 else x for i, x in enumerate(q)]
            self.say(name, listed(q), "%p")
        elif what == 1:
            self.body.append(
                f"n = 0; foreach ({name}[i]) begin if ({name}[i] == {k}) continue; if (i > 3) break; n += {name}[i]; end"
            )
            self.say("n", sum(x for x in q[:4] if x != k))
        else:
            self.body.append("n = 0; foreach (m[w]) n += w.len() * 100 + m[w];")
            self.say("n", sum(len(w) * 100 + v for w, v in self.map.items()))


@pytest.mark.parametrize("seed", range(8))
def test_random_programs(simulate: Callable[..., Done], seed: int) -> None:
    program = Program(seed)
    for _ in range(60):
        program.step()
    body = "\n    ".join(program.body)
    text = f"module tb;\n  int p[$], q[$], d[], m[string], n; string s, k;\n  initial begin\n    {body}\n  end\nendmodule"
    prints(simulate, text, "\n".join(program.wanted))
