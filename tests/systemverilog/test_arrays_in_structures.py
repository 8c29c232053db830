"""Fixed arrays that are members of structures: copied out and in, compared, ordered, searched (IEEE 1800-2017 7.2, 7.6, 7.12)."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from tests.conftest import Done, mevrik
from tests.rows import Row, check_rows, prints

AROUND = """
  typedef struct { int id; int hist[3]; } plain_t;
  typedef struct { string s; int hist[3]; string t[2]; byte grid[2][0:2]; } rich_t;
  plain_t a; rich_t b; rich_t q[$]; plain_t byname[string]; plain_t fixed[2];
  int x[3] = '{7, 8, 9}, y[3]; int turned[2:0]; int list[$] = '{1, 2, 3}; byte g[2][3]; string w[2];
  class box; rich_t r; plain_t list[$]; endclass
  box o = new;
  typedef int three_t[3];
  function automatic three_t from(int n); return '{n, n + 1, n + 2}; endfunction
  function automatic void twice(ref int v[3]); foreach (v[i]) v[i] *= 2; endfunction
  function automatic int sum(int v[3]); return v.sum(); endfunction
"""
ROWS: list[Row] = [
    ("7.6: in and out", "a.hist = x; y = a.hist; y[0] = 0; $display(\"%p %p\", a.hist, y);", "'{7, 8, 9} '{0, 8, 9}"),
    ("from the left", "turned = a.hist; a.hist = turned; $display(\"%0d %p\", turned[2], a.hist);", "7 '{7, 8, 9}"),
    ("a function", "b.hist = from(4); b.hist[1]++; $display(\"%p %0d\", b.hist, sum(b.hist));", "'{4, 6, 6} 16"),
    ("a queue, by a copy", "a.hist = list; $display(\"%p\", a);", "'{id:0, hist:'{1, 2, 3}}"),
    ("strings", "b.t = '{\"u\", \"v\"}; w = b.t; w[0] = \"z\"; b.t = w; $display(\"%p\", b.t);", "'{\"z\", \"v\"}"),
    ("two dimensions", "g = '{'{1, 2, 3}, '{4, 5, 6}}; b.grid = g; b.grid[1][0] = 9; g = b.grid; $display(\"%p\", g);", "'{'{1, 2, 3}, '{9, 5, 6}}"),
    ("elements of queues", "q.push_back(b); q[0].hist = x; y = q[0].hist; $display(\"%p %0d\", y, q[0].hist.sum());", "'{7, 8, 9} 24"),
    ("associative", "byname[\"n\"] = a; byname[\"n\"].hist = from(1); fixed[1].hist = byname[\"n\"].hist; $display(\"%p\", fixed[1].hist);", "'{1, 2, 3}"),
    ("properties", "o.r.hist = x; o.list.push_back(a); o.list[0].hist = o.r.hist; $display(\"%p %p\", o.list, o.r.hist);", "'{'{id:0, hist:'{7, 8, 9}}} '{7, 8, 9}"),
    ("11.2.2", "a.hist = x; $display(\"%b %b %b\", a.hist == x, x != a.hist, a.hist == q[0].hist);", "1 0 1"),
    ("7.12.1", "$display(\"%p %p %p\", a.hist.find with (item > 7), b.hist.find_first_index(v) with (v == 6), q[0].hist.max());", "'{8, 9} '{1} '{9}"),
    ("7.12.3", "$display(\"%0d %0d %0d\", a.hist.sum() with (item * 2), a.hist.xor(), b.hist.product());", "48 6 144"),
    ("7.12.2", "a.hist.reverse(); b.hist.rsort(); q[0].hist.sort with (item % 8); $display(\"%p %p %p\", a.hist, b.hist, q[0].hist);", "'{9, 8, 7} '{6, 6, 4} '{8, 9, 7}"),
    ("7.12.2", "o.r.hist.sort with (-item); o.list[0].hist.reverse(); $display(\"%p %p\", o.r.hist, o.list[0].hist);", "'{9, 8, 7} '{9, 8, 7}"),
    ("11.4.13", "$display(\"%b %b\", 8 inside {a.hist}, 5 inside {q[0].hist, 5});", "1 1"),
    ("13.5.2", "y = from(1); twice(y); a.hist = y; $display(\"%p %0d %0d\", a.hist, $size(a.hist), a.hist.size());", "'{2, 4, 6} 3 3"),
    ("a pattern with arrays", "a = '{id: 5, hist: x}; b = '{\"s\", y, '{default: \"d\"}, '{default: 1}}; $display(\"%p %p\", a, b);",
     "'{id:5, hist:'{7, 8, 9}} '{s:\"s\", hist:'{2, 4, 6}, t:'{\"d\", \"d\"}, grid:'{'{1, 1, 1}, '{1, 1, 1}}}"),
    ("12.7.3", "y[0] = 0; foreach (b.hist[i]) y[0] += b.hist[i] * (i + 1); foreach (o.list[i]) foreach (o.list[i].hist[j]) y[0] += j; $display(\"%0d\", y[0]);", "31"),
]  # fmt: skip


def test_rows(simulate: Callable[..., Done]) -> None:
    check_rows(simulate, ROWS, AROUND)


KEYED_AROUND = """
  typedef struct { int m[string]; logic [7:0] q[$]; int k; } in_t;
  typedef struct { in_t in; int a[int]; } out_t;
  class box; out_t o[2]; endclass
  out_t d, e; out_t list[$]; box h = new; string s; int found[$];
  function automatic void bump(ref int x); x += 10; endfunction
  function automatic int local_one(); in_t l; l.m["a"] = 1; l.m["b"] = 2; l.m.delete("a"); return l.m.num(); endfunction
"""
KEYED: list[Row] = [
    ("7.8: written", "d.in.m[\"b\"] = 2; d.in.m[\"a\"]++; d.in.m[\"a\"] += 4; d.a[-3] = 1; d.a[7] = 2; $display(\"%p\", d);",
     "'{in:'{m:'{\"a\":5, \"b\":2}, q:'{}, k:0}, a:'{-3:1, 7:2}}"),
    ("7.9.4", "if (d.in.m.first(s)) $write(\"%s\", s); if (d.in.m.next(s)) $write(\"%s\", s); if (!d.in.m.next(s)) $display;", "ab"),
    ("7.9.3", "$display(\"%0d %0d %0d\", d.in.m.exists(\"a\"), d.in.m.exists(\"z\"), local_one());", "1 0 1"),
    ("12.7.3", "foreach (d.a[j]) $write(\"%0d:%0d \", j, d.a[j]); $display;", "-3:1 7:2 "),
    ("a copy of its own", "e = d; d.in.m.delete(\"a\"); $display(\"%0d %0d %b\", d.in.m.num(), e.in.m.num(), e == d);", "1 2 0"),
    ("13.5.2", "bump(e.in.m[\"a\"]); $display(\"%0d %0d\", e.in.m[\"a\"], e.in.m.sum());", "15 17"),
    ("elements of queues", "list.push_back(e); list[0].in.m[\"c\"] = 3; $display(\"%0d %0d\", list[0].in.m.num(), e.in.m.num());", "3 2"),
    ("properties", "h.o[1] = e; h.o[1].in.m[\"c\"] = 9; h.o[0].a[4] = 4; h.o[1].in.q.push_back(5); h.o[1].in.q[0]++; $display(\"%p\", h.o[1].in);",
     "'{m:'{\"a\":15, \"b\":2, \"c\":9}, q:'{6}, k:0}"),
    ("7.12.1", "found = h.o[1].in.m.find with (item > 2); $display(\"%p %p\", found, h.o[0].a);", "'{15, 9} '{4:4}"),
    ("7.9.11", "d.a = '{default: 5}; d.a[1] = 2; $display(\"%0d %0d %0d\", d.a[99], d.a[1], d.a.num());", "5 2 1"),
]  # fmt: skip


def test_associative_arrays_in_structures(simulate: Callable[..., Done]) -> None:
    check_rows(simulate, KEYED, KEYED_AROUND)


DEFAULTS_AROUND = """
  typedef struct packed { logic [3:0] a, b; } pk_t;
  typedef struct { int x, y; } up_t;
  typedef struct { up_t p, r; } pair_t;
  pk_t one = 8'h5A, arr[2]; pk_t [2:0] packs; up_t u = '{1, 2}, us[2], grid[2][2]; pair_t g;
  logic [1:0][7:0] mda[2], mv = 16'hABCD; int row[2] = '{6, 7}, square[2][2];
  typedef struct { int x; real r; string s; } m_t;
  typedef struct { m_t a; int n; m_t b; byte c[2]; } o_t;
  m_t m, ms[2]; o_t o; int x[3]; real r[2]; localparam K = 1;
"""
DEFAULTS: list[Row] = [
    ("the type of the elements", "arr = '{default: one}; us = '{default: u}; $display(\"%h %p\", {arr[0], arr[1]}, us);", "5a5a '{'{x:1, y:2}, '{x:1, y:2}}"),
    ("a cast", "arr = '{default: pk_t'(8'hA5)}; $display(\"%h\", {arr[0], arr[1]});", "a5a5"),
    ("any other goes down", "arr = '{default: 3}; us = '{default: 4}; $display(\"%h %p\", {arr[0], arr[1]}, us);", "3333 '{'{x:4, y:4}, '{x:4, y:4}}"),
    ("beside an index", "arr = '{1: one, default: 3}; us = '{0: u, default: 4}; $display(\"%h %p\", {arr[0], arr[1]}, us);", "335a '{'{x:1, y:2}, '{x:4, y:4}}"),
    ("several dimensions", "grid = '{default: u}; grid[1] = '{default: 5}; $display(\"%p\", grid);",
     "'{'{'{x:1, y:2}, '{x:1, y:2}}, '{'{x:5, y:5}, '{x:5, y:5}}}"),
    ("an array for each row", "square = '{default: row}; $display(\"%p\", square);", "'{'{6, 7}, '{6, 7}}"),
    ("packed arrays", "packs = '{default: one}; $write(\"%h \", packs); packs = '{1: one, default: 3}; $display(\"%h\", packs);", "5a5a5a 335a33"),
    ("packed in two dimensions", "mda = '{0: mv, default: 3}; $display(\"%h %h\", mda[0], mda[1]);", "abcd 0303"),
    ("members", "g = '{default: u}; $write(\"%p \", g); g = '{p: u, default: 9}; $display(\"%p\", g);",
     "'{p:'{x:1, y:2}, r:'{x:1, y:2}} '{p:'{x:1, y:2}, r:'{x:9, y:9}}"),
    ("by type", "m = '{int: 3, real: 1.5, string: \"q\"}; ms = '{default: 7, string: \"d\"}; $display(\"%p %p\", m, ms);",
     "'{x:3, r:1.5, s:\"q\"} '{'{x:7, r:7, s:\"d\"}, '{x:7, r:7, s:\"d\"}}"),
    ("by type, inside too", "o = '{int: 1, string: \"s\", default: 2}; $display(\"%p\", o);",
     "'{a:'{x:1, r:2, s:\"s\"}, n:1, b:'{x:1, r:2, s:\"s\"}, c:'{2, 2}}"),
    ("by the type of a structure", "o = '{m_t: m, n: 8, default: 3}; $display(\"%p\", o);",
     "'{a:'{x:3, r:1.5, s:\"q\"}, n:8, b:'{x:3, r:1.5, s:\"q\"}, c:'{3, 3}}"),
    ("by the type of elements", "x = '{int: 5, K: 6}; $write(\"%p \", x); x = '{real: 1.5, default: 2}; r = '{real: 1.5, int: 2}; $display(\"%p %p\", x, r);",
     "'{5, 6, 5} '{2, 2, 2} '{1.5, 1.5}"),
]  # fmt: skip


def test_defaults_go_down_unless_the_types_match(simulate: Callable[..., Done]) -> None:
    """10.9.1, 10.9.2: a default is assigned whole to a plain vector and to what is of its own type."""
    check_rows(simulate, DEFAULTS, DEFAULTS_AROUND)


def test_in_a_clocked_process(simulate: Callable[..., Done]) -> None:
    """A member assigned with '<=' takes all elements at once; an always_comb follows one that is copied out."""
    text = """
    module tb;
      typedef struct { logic v; logic [3:0] taps[4]; } stage_t;
      logic clk = 0; stage_t s, n; logic [3:0] in[4], seen[4]; int total;
      always_ff @(posedge clk) begin s.taps <= in; s.v <= 1; n <= s; end
      always_comb begin seen = n.taps; total = 0; foreach (seen[i]) total += seen[i]; end
      initial begin
        in = '{1, 2, 3, 4};
        repeat (2) begin #5 clk = 1; #5 clk = 0; in = '{5, 6, 7, 8}; end
        $display("%p %p %0d", s.taps, seen, total);
      end
    endmodule"""
    prints(simulate, text, "'{5, 6, 7, 8} '{1, 2, 3, 4} 10\n")


def test_what_does_not_fit_is_told(tmp_path: Path) -> None:
    (tmp_path / "t.sv").write_text(
        "module t;\n  typedef struct { int h[3]; } s_t;\n  s_t s; int x[2], y[2][3];\n"
        "  initial s.h = x;\n  initial x = s.h;\n  initial s.h = y;\n  initial s.h = 3;\nendmodule"
    )
    done = mevrik("lint", tmp_path / "t.sv")
    lines = [int(line.split(":")[1]) for line in done.err.splitlines() if ": error: " in line]
    assert sorted(lines) == [4, 5, 6, 7], done.err


def test_patterns_that_leave_out_or_repeat(tmp_path: Path) -> None:
    """10.9.1, 10.9.2: every element and member has one value; what a type or a default does not reach is told, and what is named twice."""
    (tmp_path / "t.sv").write_text(
        "module t;\n  typedef struct { int x; real r; } m_t;\n  m_t m, ms[2]; int x[3:1];\n"
        "  initial m = '{real: 1.5};\n"
        "  initial x = '{real: 1.5};\n"
        "  initial x = '{2: 1, 2: 4, default: 3};\n"
        "  initial x = '{0: 1, default: 3};\n"
        "  initial m = '{x: 1, x: 2, r: 3};\n"
        "  initial x = '{default: 1, default: 2};\n"
        "  initial m = '{nosuch: 1, default: 0};\n"
        "  initial ms = '{0: '{1, 2}};\n"
        "  initial m = '{int: 1, int: 2, default: 3};\n"
        "  initial x = '{3: 1, 2: 2, 1: 3};\nendmodule"
    )
    done = mevrik("lint", tmp_path / "t.sv")
    lines = [int(line.split(":")[1]) for line in done.err.splitlines() if ": error: " in line]
    assert lines == [4, 5, 6, 7, 8, 9, 10, 11], done.err
