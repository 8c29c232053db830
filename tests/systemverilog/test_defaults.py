"""Defaults of the members of structures (IEEE 1800-2017 7.2.2), wherever a variable of such a type comes into being; objects made by the
name of their class (8.8)."""

from __future__ import annotations

from collections.abc import Callable

import pytest

from tests.conftest import Done

Run = Callable[..., Done]

TYPES = """package lock;
  localparam int K = 3;
  typedef enum logic [1:0] {IDLE = 1, RUN, STOP} state_t;
  typedef struct { int address = 1 + K; int sum; byte data[2] = '{2{1}}; state_t state = RUN; } packet_t;
  typedef struct { packet_t inner[2]; string tag = "t"; real level = 2.5; int list[$]; } frame_t;
  typedef struct { logic a; bit b; } mixed_t;
endpackage
"""
PACKET = "'{address:4, sum:0, data:'{1, 1}, state:RUN}"
FRAME = f"'{{inner:'{{{PACKET}, {PACKET}}}, tag:\"t\", level:2.5, list:'{{}}}}"


@pytest.mark.parametrize(
    "declared, shown, expected",
    [
        ("packet_t v;", "v", PACKET),
        ("const packet_t v;", "v", PACKET),
        ("packet_t v = '{1, 2, '{3, 4}, IDLE};", "v", "'{address:1, sum:2, data:'{3, 4}, state:IDLE}"),
        ("packet_t v[2][2];", "v[1][0]", PACKET),
        ("frame_t v;", "v", FRAME),
        ("frame_t v[2];", "v[1]", FRAME),
        ("packet_t q[]; initial q = new[1];", "q", f"'{{{PACKET}}}"),  # 7.5.1
        ("packet_t q[$];", "q[3]", PACKET),  # table 7-1: of an element that is not there
        ("packet_t a[string]; initial a[\"x\"].sum = 8;", 'a["x"]', "'{address:4, sum:8, data:'{1, 1}, state:RUN}"),  # 7.8.7
        ("struct {byte d[3:0] = '{1, 2, 3, 4}; byte e[2][1:0] = '{'{5, 6}, '{7, 8}};} v;", "v", "'{d:'{1, 2, 3, 4}, e:'{'{5, 6}, '{7, 8}}}"),
        ("struct {byte d[3:0] = '{1, 2, 3, 4}; string s = \"q\";} v;", "v.d[3]", "1"),
        ("mixed_t v;", "v", "'{a:x, b:0}"),  # table 6-7: what has no default begins as its type does
        ("mixed_t q[]; initial q = new[1];", "q", "'{'{a:x, b:0}}"),
        ("class C; packet_t p[2]; frame_t f; endclass C c = new;", "c.p[1]", PACKET),
        ("class C; packet_t p[2]; frame_t f; endclass C c = new;", "c.f", FRAME),
        ("function automatic packet_t f(int k); if (k != 0) f.sum = k; endfunction", "f(5)", PACKET.replace("sum:0", "sum:5")),
        ("function automatic frame_t f(); endfunction", "f()", FRAME),
        ("function packet_t f(); packet_t l; return l; endfunction", "f()", PACKET),
        ("function automatic string f(); frame_t l; return l.tag; endfunction", "f()", '"t"'),
    ],
)  # fmt: skip
def test_where_a_variable_comes_into_being(declared: str, shown: str, expected: str, simulate: Run) -> None:
    done = simulate(f'{TYPES}module tb; import lock::*; {declared}\ninitial #1 $display("%p", {shown}); endmodule\n', suffix=".sv")
    assert done.out == expected + "\n", done.err


def test_each_entry_of_a_block_begins_anew(simulate: Run) -> None:
    text = """module tb; import lock::*;
      initial repeat (2) begin automatic packet_t p; automatic frame_t f; $display("%0d %s", p.sum, f.tag); p.sum = 9; f.tag = "u"; end
    endmodule\n"""
    assert simulate(TYPES + text, suffix=".sv").out == "0 t\n0 t\n"


@pytest.mark.parametrize("kind", ["struct packed", "union", "union packed"])
def test_only_members_of_unpacked_structures_have_one(kind: str, simulate: Run) -> None:
    done = simulate(f"module tb;\ntypedef {kind} {{\nint a = 2; }} t;\nt v; endmodule\n", suffix=".sv")
    assert ":3:9: error: 'a' can't have a default" in done.err


def test_a_default_is_constant(simulate: Run) -> None:
    done = simulate("module tb; int n;\ntypedef struct {\nint a = n; } t;\nt v; endmodule\n", suffix=".sv")
    assert ":3:9: error: the default of 'a' must be constant" in done.err


CLASSES = """package lock;
  class Base; int n; function new(int n = 4); this.n = n; endfunction virtual function string name(); return "base"; endfunction endclass
  class Gate extends Base; function new(int n = 9); super.new(n + 1); endfunction virtual function string name(); return "gate"; endfunction endclass
  class Sized #(int W = 2) extends Base; function new(); super.new(W); endfunction virtual function string name(); return "sized"; endfunction endclass
endpackage
"""


@pytest.mark.parametrize(
    "made, expected",
    [
        ("Gate::new", "gate 10"),
        ("Gate::new(1)", "gate 2"),
        ("lock::Gate::new(.n(2))", "gate 3"),
        ("Sized #(7)::new", "sized 7"),
        ("lock::Sized #(.W(5))::new()", "sized 5"),
    ],
)
def test_an_object_by_the_name_of_its_class(made: str, expected: str, simulate: Run) -> None:
    """8.8: what is made is of the class that is named, whatever the variable is declared as; it can be handed on at once."""
    text = f"""module tb; import lock::*; Base b, q[$];
      initial begin b = {made}; q.push_back({made}); $display("%s %0d %0d", b.name(), b.n, q[0].n); end endmodule\n"""
    name, number = expected.split()
    assert simulate(CLASSES + text, suffix=".sv").out == f"{name} {number} {number}\n"


def test_a_class_with_parameters_is_named_with_them(simulate: Run) -> None:
    """8.25.1: outside of the class its name alone is no class."""
    done = simulate(CLASSES + "module tb; import lock::*; Base b;\ninitial b = Sized::new; endmodule\n", suffix=".sv")
    assert "names no class here" in done.err
