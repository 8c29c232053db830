"""Arrays, queues, associative arrays and their methods: IEEE 1800-2017 clause 7, each row by hand from its clause."""

from __future__ import annotations

from collections.abc import Callable

from tests.conftest import Done
from tests.rows import Row, check_rows, prints

Run = Callable[..., Done]

FIXED: list[Row] = [
    (
        "7.4.2 the first range is the one selected first",
        'int a [2][3]; a[1][2] = 7; $display("%0d %0d", a[1][2], $size(a, 1));',
        "7 2",
    ),
    ("7.4.5 an element of a packed array", 'logic [1:0][7:0] p; p = 16\'hab12; $display("%h %h", p[1], p[0]);', "ab 12"),
    ("7.4.5 a bit of an element", 'logic [1:0][7:0] p; p = 16\'hab12; p[1][0] = 0; $display("%h", p);', "aa12"),
    ("7.4.6 reading outside of a two-state array gives 0", 'bit [7:0] a [4]; int i = 9; a[0] = 5; $display("%0d", a[i]);', "0"),
    ("7.4.6 reading outside of a four-state array gives x", 'logic [3:0] a [4]; int i = 9; $display("%b", a[i]);', "xxxx"),
    ("7.4.6 writing outside has no effect", 'int a [2]; int i = 5; a = \'{1, 2}; a[i] = 9; $display("%p", a);', "'{1, 2}"),
    (
        "7.6 arrays are assigned as a whole",
        'int a [3], b [3]; a = \'{1, 2, 3}; b = a; a[0] = 9; $display("%0d %0d", b[0], b[2]);',
        "1 3",
    ),
    (
        "7.6 element by element from the left, whatever the ranges",
        'int a [0:2], b [2:0]; a = \'{1, 2, 3}; b = a; $display("%0d %0d", b[2], b[0]);',
        "1 3",
    ),
    (
        "7.6 a row of a larger array",
        "int m [2][2], r [2]; m = '{'{1, 2}, '{3, 4}}; r = m[1]; $display(\"%0d %0d\", r[0], r[1]);",
        "3 4",
    ),
    ("7.4.5 a slice of the elements", 'int a [5], b [2]; a = \'{1, 2, 3, 4, 5}; b = a[1:2]; $display("%p", b);', "'{2, 3}"),
    (
        "7.4.5 a slice from a variable place",
        'int a [5], b [2], k; a = \'{1, 2, 3, 4, 5}; k = 3; b = a[k +: 2]; $display("%p", b);',
        "'{4, 5}",
    ),
    ("7.4.5 a slice as a target", "int a [4]; a = '{default: 0}; a[2:3] = '{7, 8}; $display(\"%p\", a);", "'{0, 0, 7, 8}"),
    ("10.9.1 default fills what is not named", 'int a [4]; a = \'{1: 5, default: 9}; $display("%p", a);', "'{9, 5, 9, 9}"),
    ("10.9.1 a replicated pattern", 'int a [4]; a = \'{2{3, 4}}; $display("%p", a);', "'{3, 4, 3, 4}"),
    ("11.2.2 arrays compare as wholes", "int a [2], b [2]; a = '{1, 2}; b = '{1, 2}; $display(\"%b%b\", a == b, a != b);", "10"),
    (
        "12.7.3 foreach over two dimensions",
        "int s; int a [2][2]; a = '{'{1, 2}, '{3, 4}}; foreach (a[i, j]) s += a[i][j] * (i + 1); $display(\"%0d\", s);",
        "17",
    ),
    (
        "20.7 the bounds of a dimension",
        'logic [7:4] a [3:1]; $display("%0d %0d %0d %0d", $left(a), $low(a), $size(a, 2), $bits(a));',
        "3 1 4 12",
    ),
    ("7.12.3 sum of a fixed array", 'int a [3]; a = \'{4, 5, 6}; $display("%0d", a.sum());', "15"),
    ("7.12.2 sort orders a fixed array in place", 'int a [4]; a = \'{3, 1, 4, 2}; a.sort(); $display("%p", a);', "'{1, 2, 3, 4}"),
    ("7.12.2 reverse", 'byte a [3]; a = \'{1, 2, 3}; a.reverse(); $display("%p", a);', "'{3, 2, 1}"),
]

QUEUES: list[Row] = [
    (
        "7.10.2 push and pop at both ends",
        'int q [$]; q.push_back(2); q.push_front(1); q.push_back(3); $display("%0d %0d %0d", q.pop_front(), q.pop_back(), q.size());',
        "1 3 1",
    ),
    ("7.10.2.2 insert before an index", 'int q [$]; q = \'{1, 3}; q.insert(1, 2); $display("%p", q);', "'{1, 2, 3}"),
    (
        "7.10.2.3 delete one, delete all",
        'int q [$]; q = \'{1, 2, 3}; q.delete(1); $write("%p ", q); q.delete(); $display("%0d", q.size());',
        "'{1, 3} 0",
    ),
    ("7.10.1 $ is the last index", 'int q [$]; q = \'{4, 5, 6}; $display("%0d %0d", q[$], q[$-1]);', "6 5"),
    ("7.10.1 a slice is a queue", 'int q [$], r [$]; q = \'{1, 2, 3, 4}; r = q[1:2]; $display("%p", r);', "'{2, 3}"),
    (
        "7.10.1 a slice that is upside down is empty",
        'int q [$], r [$]; q = \'{1, 2, 3}; r = q[2:1]; $display("%0d", r.size());',
        "0",
    ),
    ("7.10.4 joining queues and elements", 'int q [$]; q = \'{2, 3}; q = {1, q, 4}; $display("%p", q);', "'{1, 2, 3, 4}"),
    ("7.10.1 writing behind the last element appends", 'int q [$]; q = \'{1}; q[1] = 2; q[9] = 5; $display("%p", q);', "'{1, 2}"),
    (
        "7.10.5 a bounded queue loses what is too much",
        'int q [$:1]; q.push_back(1); q.push_back(2); q.push_back(3); $display("%p", q);',
        "'{1, 2}",
    ),
    ("7.10.1 an empty queue reads as nothing", 'int q [$]; logic [3:0] r [$]; $display("%0d %b", q[0], r[0]);', "0 xxxx"),
    ("7.5.1 new keeps the elements it is given", 'int d []; d = new[2]; d[1] = 5; d = new[3](d); $display("%p", d);', "'{0, 5, 0}"),
    ("7.5.3 delete empties a dynamic array", 'int d []; d = new[4]; d.delete(); $display("%0d", d.size());', "0"),
    (
        "7.6 a dynamic array takes the size of what is assigned",
        'int d []; int a [3]; a = \'{7, 8, 9}; d = a; $display("%0d %0d", d.size(), d[2]);',
        "3 9",
    ),
    (
        "7.4 arrays of arrays of different sizes",
        "int d [][]; d = new[2]; d[0] = '{1}; d[1] = '{2, 3}; $display(\"%p\", d);",
        "'{'{1}, '{2, 3}}",
    ),
    (
        "7.10 a copy is a queue of its own",
        'int q [$], r [$]; q = \'{1}; r = q; r.push_back(2); $display("%0d %0d", q.size(), r.size());',
        "1 2",
    ),
    (
        "7.10 queues of queues are copied with what is in them",
        'int q [$][$], r [$][$]; q.push_back(\'{1}); r = q; r[0].push_back(2); $display("%p %p", q, r);',
        "'{'{1}} '{'{1, 2}}",
    ),
    (
        "7.10 a queue of strings",
        'string q [$]; q = {"a", "b"}; q.push_back("c"); $display("%s%s%0d", q[0], q[$], q.size());',
        "ac3",
    ),
    ("7.10 a queue of reals", 'real q [$]; q = \'{1.5, 2.25}; $display("%0.2f", q.sum());', "3.75"),
    ("7.4 a fixed array of queues", 'int f [2][$]; f[1].push_back(4); $display("%0d %0d", f[0].size(), f[1][0]);', "0 4"),
]

LOCATORS: list[Row] = [
    ("7.12.1 find", 'int q [$], r [$]; q = \'{1, 5, 2, 6}; r = q.find with (item > 2); $display("%p", r);', "'{5, 6}"),
    ("7.12.1 find_index", 'int q [$], r [$]; q = \'{1, 5, 2, 6}; r = q.find_index with (item > 2); $display("%p", r);', "'{1, 3}"),
    (
        "7.12.1 find_first and find_last",
        'int q [$], a [$], b [$]; q = \'{1, 5, 2, 6}; a = q.find_first with (item > 1); b = q.find_last with (item < 6); $display("%0d %0d", a[0], b[0]);',
        "5 2",
    ),
    (
        "7.12.1 an iterator with a name",
        'int q [$], r [$]; q = \'{3, 4}; r = q.find_last_index(x) with (x == 3); $display("%p", r);',
        "'{0}",
    ),
    ("7.12.1 min and max give queues", 'int q [$], r [$]; q = \'{3, 1, 2}; r = q.max; $display("%p %p", q.min(), r);', "'{1} '{3}"),
    ("7.12.1 min by an expression", 'int q [$], r [$]; q = \'{-4, 1, 3}; r = q.min with (item * item); $display("%p", r);', "'{1}"),
    (
        "7.12.1 unique keeps one of each value",
        'int q [$], r [$]; q = \'{1, 2, 1, 3, 2}; r = q.unique(); $display("%0d", r.size());',
        "3",
    ),
    ("7.12.1 unique_index", 'int q [$], r [$]; q = \'{4, 4, 5}; r = q.unique_index(); $display("%0d", r.size());', "2"),
    (
        "7.12.3 sum with an expression has its width",
        "byte b [$]; b = '{100, 100}; $display(\"%0d %0d\", b.sum(), b.sum with (int'(item)));",
        "-56 200",
    ),
    (
        "7.12.3 product, and, or, xor",
        'byte b [$]; b = \'{6, 3}; $display("%0d %0d %0d %0d", b.product(), b.and(), b.or(), b.xor());',
        "18 2 7 5",
    ),
    ("7.12.4 item.index", 'int q [$], r [$]; q = \'{0, 9, 2}; r = q.find with (item == item.index); $display("%p", r);', "'{0, 2}"),
    ("7.12.2 rsort", 'int q [$]; q = \'{2, 9, 4}; q.rsort(); $display("%p", q);', "'{9, 4, 2}"),
    (
        "7.12.2 sort by a key",
        'string q [$]; q = {"ccc", "a", "bb"}; q.sort with (item.len()); $display("%s%s%s", q[0], q[1], q[2]);',
        "abbccc",
    ),
    ("7.12.3 how many hold", "int q [$]; q = '{1, 2, 3, 4}; $display(\"%0d\", q.sum with (int'(item % 2 == 0)));", "2"),
]

KEYED: list[Row] = [
    (
        "7.8.2 keys that are strings, in their order",
        'int m [string]; m["b"] = 2; m["a"] = 1; foreach (m[k]) $write("%s=%0d ", k, m[k]); $display;',
        "a=1 b=2 ",
    ),
    ("7.9.1 num and size", 'int m [int]; m[5] = 1; m[-5] = 2; $display("%0d %0d", m.num(), m.size());', "2 2"),
    ("7.9.3 exists", 'int m [int]; m[5] = 1; $display("%0d%0d", m.exists(5), m.exists(6));', "10"),
    ("7.9.2 delete", 'int m [int]; m[5] = 1; m[6] = 2; m.delete(5); $display("%0d %0d", m.num(), m[6]);', "1 2"),
    (
        "7.9.4 first, next",
        'int m [int], k; m[30] = 1; m[-7] = 2; void\'(m.first(k)); $write("%0d ", k); void\'(m.next(k)); $display("%0d %0d", k, m.next(k));',
        "-7 30 0",
    ),
    (
        "7.9.5 last, prev",
        'int m [byte], n; byte k; m[1] = 1; m[9] = 2; n = m.last(k); $write("%0d ", k); n = m.prev(k); $display("%0d", k);',
        "9 1",
    ),
    ("7.8.6 reading a key that is not there makes no entry", 'int m [int], x; x = m[3]; $display("%0d %0d", x, m.num());', "0 0"),
    (
        "7.9.11 a default value",
        'int m [string]; m = \'{"x": 4, default: -1}; $display("%0d %0d %0d", m["x"], m["y"], m.num());',
        "4 -1 1",
    ),
    ("7.8.6 counting with ++", 'int m [string]; m["k"]++; m["k"]++; $display("%0d", m["k"]);', "2"),
    ("7.8.4 unsigned keys", 'int m [bit [7:0]]; m[200] = 1; m[3] = 2; foreach (m[k]) $write("%0d ", k); $display;', "3 200 "),
    (
        "7.8 an associative array of queues",
        'int m [string][$]; m["a"].push_back(1); m["a"].push_back(2); $display("%0d %0d", m["a"].size(), m.exists("b"));',
        "2 0",
    ),
    ("7.8.1 any index", 'int m [*]; m[7] = 3; $display("%0d %0d", m[7], m.num());', "3 1"),
    (
        "7.9.9 a copy has its own entries",
        'int m [int], c [int]; m[1] = 1; c = m; c[2] = 2; $display("%0d %0d", m.num(), c.num());',
        "1 2",
    ),
    ("7.12.3 sum of the values", 'int m [string]; m["a"] = 3; m["b"] = 4; $display("%0d", m.sum());', "7"),
]

STRUCTURES: list[Row] = [
    (
        "7.2 a structure holds what it is given",
        'struct {string who; int n;} s; s = \'{"a", 3}; $display("%s%0d", s.who, s.n);',
        "a3",
    ),
    (
        "7.2.2 members by name and default",
        'struct {int a; int b; int c;} s; s = \'{b: 2, default: 9}; $display("%0d%0d%0d", s.a, s.b, s.c);',
        "929",
    ),
    (
        "10.9.2 values by the type of the member",
        'struct {int a; string s; int b;} s; s = \'{int: 1, string: "x"}; $display("%0d%s%0d", s.a, s.s, s.b);',
        "1x1",
    ),
    (
        "7.2.1 a packed structure is a number",
        'struct packed {logic [3:0] a; logic [3:0] b;} s; s = 8\'h4c; s.a += 1; $display("%h %h", s, s.b);',
        "5c c",
    ),
    (
        "7.2.1 a bit of a member",
        'struct packed {logic [3:0] a; logic [3:0] b;} s; s = 8\'h00; s.b[3] = 1; $display("%b", s);',
        "00001000",
    ),
    (
        "7.2 a structure in a structure",
        'struct {struct {int x; int y;} at; string n;} s; s = \'{\'{1, 2}, "p"}; s.at.y = 5; $display("%0d%0d%s", s.at.x, s.at.y, s.n);',
        "15p",
    ),
    (
        "7.2 an array in a structure",
        'struct {int v [3]; int n;} s; s.v = \'{1, 2, 3}; s.n = 4; s.v[1] = 7; $display("%0d%0d%0d", s.v[0], s.v[1], s.n);',
        "174",
    ),
    (
        "7.2 an array of structures",
        'struct {string n; int k;} a [2]; a[1].n = "z"; a[1].k = 3; a[0] = a[1]; $display("%s%0d", a[0].n, a[0].k);',
        "z3",
    ),
    (
        "7.2 a queue of structures, changed in place",
        'struct {int a; int b;} q [$]; q.push_back(\'{1, 2}); q[0].b = 9; $display("%0d%0d", q[0].a, q[0].b);',
        "19",
    ),
    (
        "7.2 a structure with a queue is copied with it",
        'struct {int q [$]; int n;} s, t; s.q.push_back(1); t = s; t.q.push_back(2); $display("%0d%0d", s.q.size(), t.q.size());',
        "12",
    ),
    (
        "7.3.1 a packed union",
        'union packed {logic [7:0] b; logic [1:0][3:0] n;} u; u.b = 8\'h3e; $display("%h%h", u.n[1], u.n[0]);',
        "3e",
    ),
    ("6.8 two-state members begin at 0, others at x", 'struct {int n; logic l;} s; $display("%0d%b", s.n, s.l);', "0x"),
    (
        "11.2.2 structures compare by their members",
        'struct {int a; int b;} s, t; s = \'{1, 2}; t = \'{1, 2}; $write("%b", s == t); t.b = 3; $display("%b", s == t);',
        "10",
    ),
    ("7.2 a real member", 'struct {real r; int n;} s; s = \'{2.5, 1}; s.r = s.r * 2; $display("%0.1f", s.r);', "5.0"),
    (
        "10.9 a pattern with its type before it",
        'typedef struct {int a; int b;} two_t; int n; n = two_t\'{3, 4}.b; $display("%0d", n);',
        "4",
    ),
    ("21.2.1.7 %p names the members", 'struct {string n; int k;} s; s = \'{"q", 2}; $display("%p", s);', '\'{n:"q", k:2}'),
]


def test_fixed_arrays(simulate: Run) -> None:
    check_rows(simulate, FIXED)


def test_queues_and_dynamic_arrays(simulate: Run) -> None:
    check_rows(simulate, QUEUES)


def test_locator_methods(simulate: Run) -> None:
    check_rows(simulate, LOCATORS)


def test_associative_arrays(simulate: Run) -> None:
    check_rows(simulate, KEYED)


def test_structures_and_unions(simulate: Run) -> None:
    check_rows(simulate, STRUCTURES)


def test_elements_driven_apart(simulate: Run) -> None:
    """10.3, 23.3.3: each element of an array has drivers of its own: assignments, ports, parts, generate loops, three-state ones."""
    text = """module leaf #(parameter ID = 0) (input logic [3:0] a, output logic [3:0] b); assign b = a + ID; endmodule
    module tb; logic [3:0] in[4], out[4]; wire [3:0] w[3]; logic [1:0] e = 0; tri [3:0] q[0:1][0:1]; logic [3:0] v[3];
      for (genvar i = 0; i < 4; i++) begin : g leaf #(i * 2) l(.a(in[i]), .b(out[i])); end
      assign w[1] = e[0] ? 4'h5 : 4'hz; assign w[1] = e[1] ? 4'ha : 4'hz; assign w[0][1:0] = 2'b11; assign w[0][3:2] = 2'b01;
      assign q[1][0] = 4'h7; assign q[0][1] = e; for (genvar g = 0; g < 3; g++) assign v[g] = g + e;
      initial begin foreach (in[i]) in[i] = i; #1 $display("%p %p %p %p", out, w, q, v); e = 1; #1 $display("%b %p", w[1], v);
        e = 2; #1 $display("%b", w[1]); e = 3; #1 $display("%b %0d", w[1], q[0][1]); end endmodule"""
    done = simulate(text, suffix=".sv")
    assert done.out.splitlines() == [
        "'{0, 3, 6, 9} '{7, z, z} '{'{z, 0}, '{7, z}} '{0, 1, 2}",
        "0101 '{1, 2, 3}",
        "1010",
        "xxxx 3",
    ], done.err


def test_arrays_inside_of_structures(simulate: Run) -> None:
    """21.2.1.7, 7.2: a member that is an array is printed as one, with its signs, names and unknown bits."""
    text = """module tb; typedef enum {A, B} en; typedef struct { en e[2]; logic [3:0] n[2][2]; shortint s[2]; string t; } st; st s, list[2]; int q[$][2];
      initial begin s = '{'{A, B}, '{'{1, 2}, '{3, 'x}}, '{-1, 5}, "hi"}; $display("%p", s); $display("%p", s.n); $display("%p", s.e);
      q.push_back('{1, 2}); $display("%p", q); list[1] = s; list[0] = '{e: '{default: B}, n: '{default: 7}, s: '{2, 3}, t: ""}; $display("%p", list);
      s.s[0]--; s.n[1][0] += 4; $display("%0d %0d %p", s.s[0], s.n[1][0], s.s); end endmodule"""
    assert simulate(text, suffix=".sv").out.splitlines() == [
        """'{e:'{A, B}, n:'{'{1, 2}, '{3, x}}, s:'{-1, 5}, t:"hi"}""",
        "'{'{1, 2}, '{3, x}}",
        "'{A, B}",
        "'{'{1, 2}}",
        """'{'{e:'{B, B}, n:'{'{7, 7}, '{7, 7}}, s:'{2, 3}, t:""}, '{e:'{A, B}, n:'{'{1, 2}, '{3, x}}, s:'{-1, 5}, t:"hi"}}""",
        "-2 7 '{-2, 5}",
    ]


def test_selections_beside_the_vector(simulate: Run) -> None:
    """11.5.1: outside of the vector a bit reads as x, of a two-state vector as 0; so does each bit of a part of it. The same for short
    vectors and for long ones, for constant and for computed places, in elements of arrays, and as a constant expression."""
    text = """module tb;
      bit [49:0] b; bit [149:0] w; logic [149:0] l; bit [3:0] m [2]; logic [199:0] d [2]; logic [299:100] up; logic [100:299] down;
      localparam bit [2:0] K = 3'b111; localparam logic [1:0] OUT = {K[3], K[2]};
      int i; integer z; logic r; logic [3:0] q; logic [63:0] wide;
      function automatic logic [7:0] pick(logic [191:0] x, int k); return x[k*8 +: 8]; endfunction
      initial begin
        b = '1; w = '1; l = '1; d[0] = {50{4'hA}}; d[1] = {50{4'h5}};
        i = 50; r = b[i]; $write("%b ", r); i = 150; r = w[i]; $write("%b ", r); r = l[i]; $write("%b ", r); i = -1; r = l[i]; $write("%b ", r);
        i = 48; q = b[i +: 4]; $write("%b ", q); i = 148; q = w[i +: 4]; $write("%b ", q); q = l[i +: 4]; $write("%b ", q); q = l[1 -: 4]; $write("%b ", q);
        i = 2; q = m[i]; $write("%b ", q); z = 'x; $display("%b %b %b", l[z], w[z] === 1'b0, OUT);
        i = 1; $write("%h %h %h ", d[i][199 -: 8], d[i][3:0], d[0][i * 4 +: 8]); i = 2; $write("%h %b ", d[i][199 -: 8], d[i][7]);
        wide = d[1][130:67]; $write("%h ", wide); i = 67; wide = d[1][i +: 64]; $display("%h", wide);
        up = '0; down = '0; up[299] = 1; up[103] = 1; down[299] = 1; down[103] = 1;
        i = 299; $write("%b%b%b ", up[i], down[i], up[299]); i = 103; $write("%b%b%b ", up[i], down[i], down[103]); i = 99; $write("%b%b ", up[i], down[i]);
        i = 100; $write("%b %b ", up[i +: 4], down[i +: 4]); $display("%h %h", pick({8'hAB, 176'h0, 8'hCD}, 0), pick({8'hAB, 176'h0, 8'hCD}, 23));
      end
    endmodule"""
    wanted = """0 0 x x 0011 0011 xx11 11xx 0000 x 1 01
    55 5 aa xx x aaaaaaaaaaaaaaaa aaaaaaaaaaaaaaaa
    111 111 xx 1000 0001 cd ab"""
    prints(simulate, text, wanted)


def test_a_concatenation_as_target_of_what_lies_in_lists(simulate: Run) -> None:
    """11.4.12: each part takes its bits of the value, which is there before any of them changes: elements of dynamic arrays and queues,
    properties, signals among them; nested, with operators."""
    text = """class c; logic [3:0] n; byte b; endclass
    module tb; int a[]; int q[$]; c o = new; logic [7:0] v; int m[string];
      function automatic void reverse(ref int x[]); for (int i = 0, j = x.size() - 1; i < j; i++, j--) {x[i], x[j]} = {x[j], x[i]}; endfunction
      initial begin
        a = '{1, 2, 3, 4, 5}; reverse(a); $display("%p", a);
        q = '{7, 8}; {q[0], q[1]} = {q[1], q[0]}; $display("%p", q);
        {o.n, {v, o.b}} = 20'hA5BF0; $display("%h %h %0d", o.n, v, o.b);
        {o.n, v} += 12'd6; $display("%h %h", o.n, v);
        {m["hi"], m["lo"]} = 64'h0000_0001_FFFF_FFFE; $display("%0d %0d", m["hi"], m["lo"]);
        {v, o.n} = 8'hC3; $display("%h %h", v, o.n);
      end
    endmodule"""
    # a5b + 6 is a61; c3 has eight bits of the twelve, the rest is 0
    prints(simulate, text, "'{5, 4, 3, 2, 1}\n'{8, 7}\na 5b -16\na 61\n1 -2\n0c 3")
