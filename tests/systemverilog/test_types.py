"""Strings, enums, casts, operators and literals: IEEE 1800-2017 clauses 5, 6, 11, each row by hand from its clause."""

from __future__ import annotations

from collections.abc import Callable

from tests.conftest import Done
from tests.rows import Row, check_rows, prints

Run = Callable[..., Done]

STRINGS: list[Row] = [
    ("6.16 an empty string", 'string s; $display("[%s]%0d", s, s.len());', "[]0"),
    ("6.16 joining and repeating", 'string s; s = {"ab", "c"}; s = {2{s}}; $display("%s", s);', "abcabc"),
    ("6.16 comparing", 'string a, b; a = "abc"; b = "abd"; $display("%b%b%b%b", a < b, a == b, a != b, a >= "abc");', "1011"),
    ("6.16 a character", 'string s; s = "hello"; $display("%s %0d", s[1], s[0]);', "e 104"),
    ("6.16.2 putc, and an index outside", 'string s; s = "abc"; s.putc(1, "X"); s.putc(9, "Y"); $display("%s", s);', "aXc"),
    ("6.16 assigning to a character", 'string s; s = "abc"; s[2] = "z"; $display("%s", s);', "abz"),
    ("6.16.4 upper and lower case", 'string s; s = "aB1"; $display("%s%s", s.toupper(), s.tolower());', "AB1ab1"),
    (
        "6.16.6 compare",
        'string s; s = "b"; $display("%b%b%b", s.compare("a") > 0, s.compare("b") == 0, s.icompare("B") == 0);',
        "111",
    ),
    ("6.16.8 substr, and one outside", 'string s; s = "abcdef"; $display("%s[%s]", s.substr(1, 3), s.substr(4, 9));', "bcd[]"),
    (
        "6.16.9 numbers from text",
        'string s, h; s = "123abc"; h = "fF"; $display("%0d %0d %0d", s.atoi(), h.atohex(), s.atobin());',
        "123 255 1",
    ),
    ("6.16.10 a real from text", 'string s; s = "2.5e1"; $display("%0.1f", s.atoreal());', "25.0"),
    (
        "6.16.11 text from numbers",
        'string s; s.itoa(-7); $write("%s ", s); s.hextoa(255); $write("%s ", s); s.bintoa(5); $display("%s", s);',
        "-7 ff 101",
    ),
    (
        "6.16 from a vector, zeros left out",
        "string s; logic [31:0] v; v = 32'h00410042; s = string'(v); $display(\"%s\", s);",
        "AB",
    ),
    ("6.16 into a vector", 'string s; logic [15:0] v; s = "xyz"; v = 16\'(s); $display("%s", v);', "yz"),
    (
        "6.16 through the characters of a string",
        'string s; int n; s = "aba"; foreach (s[i]) if (s[i] == "a") n++; $display("%0d", n);',
        "2",
    ),
    ("21.3.3 $sformatf", 'string s; s = $sformatf("%0d-%h-%s", 5, 8\'hab, "q"); $display("%s", s);', "5-ab-q"),
    (
        "12.5 a case over strings",
        'string s; s = "go"; case (s) "stop": $display("1"); "go": $display("2"); default: $display("3"); endcase',
        "2",
    ),
    (
        "11.4.12.2 strings of both arms keep their lengths",
        'string s; int k; k = 1; s = k ? "yes" : "no"; $display("[%s]%0d", s, s.len());',
        "[yes]3",
    ),
]

ENUMS = "typedef enum {RED, GREEN = 4, BLUE} color_e; typedef enum logic [1:0] {S0, S1, S2} state_e; color_e c; state_e st;"
ENUM_ROWS: list[Row] = [
    ("6.19 values count on", '$display("%0d %0d %0d", RED, GREEN, BLUE);', "0 4 5"),
    ("6.19.5.6 name", 'c = BLUE; $display("%s", c.name());', "BLUE"),
    ("6.19.5.1 first and last", '$display("%s %s %0d", c.first().name, c.last().name, c.num());', "RED BLUE 3"),
    ("6.19.5.3 next wraps around", 'c = BLUE; c = c.next(); $display("%0d", c);', "0"),
    ("6.19.5.3 next by two", 'c = RED; $display("%0d", c.next(2));', "5"),
    ("6.19.5.4 prev", 'c = RED; $display("%0d", c.prev());', "5"),
    ("6.19.5.6 a value that has no name", 'c = color_e\'(2); $display("[%s]%0d", c.name(), c);', "[]2"),
    ("6.19.4 arithmetic over enums gives a number", 'st = S1; $display("%0d", st + 1);', "2"),
    (
        "6.24.2 $cast refuses a value without a name",
        'int ok; ok = $cast(c, 3); $write("%0d", ok); ok = $cast(c, 4); $display("%0d%0d", ok, c);',
        "014",
    ),
    ("6.19 a four-state enum starts at x", 'state_e fresh; $display("%b", fresh);', "xx"),
    ("6.19.2 names in a row", 'typedef enum {L[3], M[2:1]} n_e; $display("%0d %0d %0d", L2, M2, M1);', "2 3 4"),
    (
        "A.2.2.1 a type by its name as the base",
        'typedef bit [3:0] four_t; typedef enum four_t {N1 = 9, N2} by_name_e; by_name_e b = N2; $display("%0d %0d %s", $bits(b), b, b.name);',
        "4 10 N2",
    ),
    ("20.6.2 the bits of an enum", '$display("%0d %0d", $bits(color_e), $bits(st));', "32 2"),
    ("21.2.1.7 %p of a number, as in a pattern", 'int x; logic [7:0] v; x = -5; v = 7; $display("%p %p", x, v);', "-5 7"),
    ("21.2.1.7 %p prints the name", 'st = S2; $display("%p", st);', "S2"),
]

OPERATORS: list[Row] = [
    ("5.7.1 fills", "logic [7:0] a, b; a = '1; b = 'x; $display(\"%b %b\", a, b);", "11111111 xxxxxxxx"),
    ("5.8 time literals in the unit of the module", 'realtime t; t = 1.5us; $display("%0.1f", t);', "1500.0"),
    ("6.24.1 a size cast", "$display(\"%b %b\", 4'(8'hab), 8'(4'sb1000));", "1011 11111000"),
    ("6.24.1 a sign cast", "$display(\"%0d %0d\", signed'(4'b1111), unsigned'(-4'sd1));", "-1 15"),
    ("6.24.1 a real becomes a rounded integer", "$display(\"%0d %0d\", int'(2.5), int'(-2.5));", "3 -3"),
    ("6.24.1 a cast to a type", 'typedef logic [3:0] nib_t; $display("%0d", nib_t\'(20));', "4"),
    ("6.24.3 an array as bits", "byte a [2]; a = '{8'h12, 8'h34}; $display(\"%h\", shortint'(a));", "1234"),
    ("11.4.2 post-increment gives the old value", 'int i, j; i = 5; j = i++; $display("%0d %0d", i, j);', "6 5"),
    ("11.4.2 pre-decrement gives the new one", 'int i, j; i = 5; j = --i; $display("%0d %0d", i, j);', "4 4"),
    ("11.3.6 an assignment as a value", 'int a, b; a = (b = 3) + 1; $display("%0d %0d", a, b);', "4 3"),
    (
        "11.4.1 compound assignments",
        'int a; a = 12; a -= 2; a *= 3; a /= 4; a <<= 2; a |= 1; a ^= 3; a %= 16; $display("%0d", a);',
        "14",
    ),
    ("11.4.6 wildcard equality", "$display(\"%b%b%b\", 4'b1010 ==? 4'b1x1z, 4'b1010 !=? 4'b1x1z, 4'b1x10 ==? 4'b1010);", "10x"),
    ("11.4.7 implication and equivalence", '$display("%b%b%b%b", 0 -> 0, 1 -> 0, 2 <-> 3, 0 <-> 1);', "1010"),
    ("11.4.7 short circuit", 'int n; n = 0; if (0 && n++) ; if (1 || n++) ; $display("%0d", n);', "0"),
    ("11.4.13 inside", 'int a; a = 5; $display("%b%b%b", a inside {1, 5}, a inside {[6:9]}, a inside {[$:5]});', "101"),
    ("11.4.13 inside ignores x and z of the set", "$display(\"%b\", 4'b1011 inside {4'b1x11});", "1"),
    ("11.4.13 inside an array", 'int a [3]; a = \'{2, 4, 6}; $display("%b%b", 4 inside {a}, 5 inside {a});', "10"),
    ("11.4.14 bytes swapped", '$display("%h", {<<8{32\'h11223344}});', "44332211"),
    ("11.4.14 bits reversed", '$display("%b", {<<{4\'b1100}});', "0011"),
    ("11.4.14 slices that don't divide the width: the last one is short", '$display("%b", {<<4{6\'b11_0101}});', "010111"),
    ("11.4.14.2 a wider target is filled from the left", 'logic [11:0] w; w = {>>{8\'hab}}; $display("%h", w);', "ab0"),
    ("11.4.14.3 unpacking", 'byte a, b; {>>{a, b}} = 16\'h1234; $display("%h %h", a, b);', "12 34"),
    ("11.4.14.3 unpacking in reverse", 'byte a, b; {<<8{a, b}} = 16\'h1234; $display("%h %h", a, b);', "34 12"),
    ("11.4.14.3 unpacking into an array", 'byte a [3]; {>>{a}} = 24\'h010203; $display("%p", a);', "'{1, 2, 3}"),
    ("11.5.1 a part of a packed array", 'logic [3:0][3:0] p; p = 16\'h1234; $display("%h %h", p[2:1], p[3][1:0]);', "23 1"),
    (
        "11.6.1 the width of an operation is that of its widest part",
        "logic [3:0] a; logic [7:0] b; a = 4'hf; b = a + 4'h1; $display(\"%h\", b);",
        "10",
    ),
    ("11.12 let", '$display("%0d", lesser(7, 3));', "3"),
    (
        "20.9 counting bits",
        "logic [5:0] v; v = 6'b1x10z1; $display(\"%0d %0d %0d\", $countones(v), $countbits(v, 'x, 'z), $countbits(v, '0));",
        "3 2 1",
    ),
    ("20.9 one-hot", "$display(\"%b%b%b%b\", $onehot(4'b0100), $onehot(4'b0110), $onehot0(4'b0000), $isunknown(4'b01x0));", "1011"),
    ("20.8 $clog2", '$display("%0d %0d %0d %0d", $clog2(1), $clog2(2), $clog2(9), $clog2(16));', "0 1 4 4"),
    (
        "11.4.12 selects of a concatenation",
        "logic [3:0] a = 4'b0110; $display(\"%b %b\", {a, 4'h3}[5:2], {2{a}}[1]);",
        "1000 1",
    ),
    (
        "20.6.1 $typename",
        'logic [7:0] v; int i; string s; $display("%s %s %s", $typename(v), $typename(i), $typename(s));',
        "logic[7:0] int string",
    ),
    (
        "11.4.12.2 literals repeated as often as the run says are a string",
        'int k; string s; k = 3; s = {k{"ab"}}; k = 0; $display("%s %0d [%s]", s, s.len(), {k{"x"}});',
        "ababab 6 []",
    ),
    ("6.23 the type of an expression", 'byte b; type(b) c; c = 300; $display("%0d %0d", c, $bits(c));', "44 8"),
    (
        "6.23, 6.22.1 types are compared: a byte is a signed vector of 8 bits; structures match by their declaration alone",
        "typedef struct packed {logic a;} s1; typedef struct packed {logic a;} s2; typedef s1 s3; "
        '$display("%b%b%b%b", type(byte) == type(bit signed [7:0]), type(byte) === type(bit [7:0]), type(s1) != type(s2), type(s1) == type(s3));',
        "1011",
    ),
    ("6.11 two-state variables take x as 0", 'bit [3:0] b; b = 4\'b1x0z; $display("%b", b);', "1000"),
    ("6.11 a byte is signed, a bit vector is not", 'byte b; bit [7:0] v; b = 200; v = 200; $display("%0d %0d", b, v);', "-56 200"),
]


def test_strings(simulate: Run) -> None:
    check_rows(simulate, STRINGS)


def test_enums(simulate: Run) -> None:
    check_rows(simulate, ENUM_ROWS, ENUMS)


def test_operators_and_casts(simulate: Run) -> None:
    check_rows(simulate, OPERATORS, "let lesser(a, b) = a < b ? a : b;", outside="`timescale 1ns/1ns")


def test_shortreal_has_single_precision(simulate: Run) -> None:
    """6.12: a shortreal is a float of C: 24 bits of mantissa. 0.1 is 0x3DCCCCCD there, 7 / 3 is 0x40155555; 2^24 + 1 has no place."""
    text = """module tb;
      shortreal s, a[2]; real r; shortreal c = 0.1; localparam shortreal P = 1.1; typedef struct { shortreal f; real d; } pair; pair x;
      function automatic shortreal third(shortreal v); return v / 3; endfunction
      initial begin
        s = 0.1; r = 0.1; $display("%0.12f %0.12f %b %b %h", s, r, s == r, s == c, $shortrealtobits(s));
        s = 16777217.0; $display("%0.1f %0.1f", s, shortreal'(33554435.0)); r = s + 0.5; $display("%0.1f", r);
        s = 7; s /= 3; $display("%0.10f %h %h", s, $shortrealtobits(s), $realtobits(s));
        a = '{0.7, 1}; $display("%0.9f %0.9f %0.9f", a[0], third(1.0), P);
        x = '{0.1, 0.1}; $display("%0.12f %0.12f", x.f, x.d);
        s = 3; $display("%0d", int'(s * 2.6));
      end
    endmodule"""
    wanted = """0.100000001490 0.100000000000 0 1 3dcccccd
    16777216.0 33554436.0
    16777216.5
    2.3333332539 40155555 4002aaaaa0000000
    0.699999988 0.333333343 1.100000024
    0.100000001490 0.100000000000
    8"""
    prints(simulate, text, wanted)
