"""Types, operators and attributes: IEEE 1076-2008 clauses 5, 9 and 16, each row by hand from its clause."""

from __future__ import annotations

from tests.vhdl.rows import Row, Run, check_rows

TYPES = """
  type colour is (red, green, blue);
  type weight is range 0 to 1_000_000_000 units mg; g = 1000 mg; kg = 1000 g; end units;
  type byte is range -128 to 127;
  type table is array (colour) of natural;
  type matrix is array (0 to 1, 0 to 2) of integer;
  type ints is array (natural range <>) of integer;
  type point is record x, y : integer; end record;
  constant tab : table := (green => 4, others => 7);
  constant m : matrix := ((1, 2, 3), (4, 5, 6));
  constant down : ints(5 downto 3) := (10, 20, 30);
  constant v8 : bit_vector(7 downto 0) := x"A5";
  constant p : point := (y => 2, x => 1);
  function img(v : ints) return string is
  begin
    if v'length = 0 then
      return integer'image(v'left) & ".." & integer'image(v'right);
    end if;
    return integer'image(v'left) & ".." & integer'image(v'right) & ":" & integer'image(v(v'left));
  end function;
"""

SCALARS: list[Row] = [
    ("9.2.7 division rounds to zero", "integer'image((-7) / 2) & integer'image(7 / (-2))", "-3-3"),
    ("9.2.7 rem has the sign of the left operand", "integer'image((-7) rem 3) & integer'image(7 rem (-3))", "-11"),
    ("9.2.7 mod has the sign of the right operand", "integer'image((-7) mod 3) & integer'image(7 mod (-3))", "2-2"),
    ("9.2 the sign binds weaker than mod", "integer'image(-7 mod 3)", "-1"),
    ("9.2.8 **", "integer'image(2 ** 10) & integer'image((-3) ** 3) & to_string(2.0 ** (-1), 2)", "1024-270.50"),
    ("9.2.8 abs and not", "integer'image(abs (-5)) & boolean'image(not true)", "5false"),
    ("9.3.6 conversion rounds to the nearest", "integer'image(integer(2.4)) & integer'image(integer(-2.6)) & integer'image(integer(2.5))", "2-33"),
    ("15.5.3 based literals", "integer'image(16#FF#) & integer'image(2#1010_1010#) & integer'image(8#17#E1)", "255170120"),
    ("15.5.2 exponents", "integer'image(12E2) & to_string(1.25e1, 1)", "120012.5"),
    ("5.2.4 physical types", "integer'image(5 kg / g) & integer'image(weight'pos(2 g + 500 mg))", "50002500"),
    ("5.2.4 a physical value and a real", "integer'image(10 g * 2.5 / mg)", "25000"),
    ("5.2.4.2 time", "integer'image(1.5 us / 1 ns) & integer'image(1 hr / 1 min)", "150060"),
    ("9.2.7 mod of time", "integer'image((105 ns mod 20 ns) / 1 ns) & integer'image(((-7 ns) rem 4 ns) / 1 ns)", "5-3"),
    ("16.2.2 enumeration attributes", "colour'image(colour'succ(red)) & colour'image(colour'val(2)) & integer'image(colour'pos(green))", "greenblue1"),
    ("16.2.2 leftof and rightof", "colour'image(colour'leftof(blue)) & colour'image(colour'rightof(red))", "greengreen"),
    ("16.2.2 ends", "colour'image(colour'high) & colour'image(colour'left) & integer'image(natural'low) & byte'image(byte'left)", "bluered0-128"),
    ("16.2.2 value", "integer'image(integer'value(\" 42 \")) & colour'image(colour'value(\"BLUE\")) & byte'image(byte'value(\"-3\"))", "42blue-3"),
    ("16.2.2 image of a character", "character'image('x') & character'image(LF) & bit'image('1')", "'x'lf'1'"),
    ("9.2.2 short circuit", "boolean'image(false and (1 / (down'length - 3) = 0)) & boolean'image(true or (1 / (down'length - 3) = 0))", "falsetrue"),
    ("9.2.2 xor and friends", "boolean'image(true xor true) & boolean'image(true nand false) & boolean'image(false xnor true)", "falsetruefalse"),
    ("5.2.1 minimum and maximum (5.2.6)", "integer'image(minimum(3, -2)) & colour'image(maximum(red, green)) & to_string(maximum(1.5, 0.5), 1)", "-2green1.5"),
    ("5.7 to_string of scalars", "to_string(-17) & to_string(true) & to_string(blue) & to_string('c')", "-17truebluec"),
    ("5.7 to_string with digits, unit and format", "to_string(3.14159, 2) & \" \" & to_string(1500 ps, ns) & to_string(2.5, \"%7.3f\")", "3.14 1.5 ns  2.500"),
]  # fmt: skip

ARRAYS: list[Row] = [
    ("9.2.5 & counts from the left end of the index", 'img(down & 40) & " " & img(ints\'(1, 2) & down)', "0..3:10 0..4:1"),
    ("9.2.5 two empty arrays give the right one", "img(down(2 downto 3) & down(3 downto 4))", "3..4"),
    ("8.5 slices keep the direction", "img(down(4 downto 3))", "4..3:20"),
    ("9.3.3.3 bounds of an aggregate: the index's left end", "img((7, 8, 9))", "0..2:7"),
    ("9.3.3.3 named aggregate", "img((3 => 5, 2 => 6))", "2..3:6"),
    ("9.3.3.3 others", "integer'image(tab(red)) & integer'image(tab(green)) & integer'image(tab(blue))", "747"),
    ("9.2.3 arrays compare element by element", "boolean'image(ints'(1, 2) < ints'(1, 2, 0)) & boolean'image(ints'(2, 0) < ints'(1, 9))", "truefalse"),
    ("9.2.3 = needs equal lengths", 'boolean\'image(bit_vector\'("01") = bit_vector\'("010"))', "false"),
    ("9.2.2 logic of arrays", "to_string(v8 and x\"0F\") & to_string(not v8) & to_string(v8 xor x\"FF\")", "000001010101101001011010"),
    ("9.2.2 array with one element (2008)", "to_string(v8 and '1') & to_string('0' or v8)", "1010010110100101"),
    ("9.2.2 reductions (2008)", "to_string(and v8) & to_string(or v8) & to_string(xor v8) & to_string(nor v8)", "0100"),
    ("9.2.4 shifts", "to_string(v8 sll 2) & to_string(v8 srl 4) & to_string(v8 sla 1) & to_string(v8 sra 1)", "10010100000010100100101111010010"),
    ("9.2.4 rotations, and by less than nothing", "to_string(v8 rol 4) & to_string(v8 ror 1) & to_string(v8 sll (-4))", "010110101101001000001010"),
    ("16.2.3 attributes of arrays", "integer'image(m'length(2)) & integer'image(down'left) & integer'image(down'low) & boolean'image(down'ascending)", "353false"),
    ("8.4 several dimensions", "integer'image(m(1, 0)) & integer'image(m(0, 2))", "43"),
    ("15.8 bit strings", 'to_string(bit_vector\'(o"17")) & to_string(bit_vector\'(12d"10")) & to_string(bit_vector\'(6sx"F")) & to_string(bit_vector\'(b"1_0"))', "00111100000000101011111110"),
    ("9.3.5 qualified expressions, 9.3.2 records", "integer'image(p.x) & integer'image(point'(3, 4).y)", "14"),
    ("9.3.4 an operator as a function", 'integer\'image("+"(3, 4)) & boolean\'image("and"(true, false))', "7false"),
    ("5.3.2.4 min and max of an array (2008)", "integer'image(minimum(down)) & maximum(string'(\"lift\"))", "10t"),
    ("16.3 justify of textio", '"[" & justify("oven", left, 6) & justify("kiln", right, 6) & "]"', "[oven    kiln]"),
]  # fmt: skip

NINE: list[Row] = [
    ("16.7 the tables", "to_string(std_logic'('1') and 'Z') & to_string(std_logic'('0') and 'U') & to_string(std_logic'('H') or '0') & to_string(not std_logic'('L'))", "X011"),
    ("16.7 vectors", 'to_string(std_logic_vector\'("01ZL") and "1111") & to_string(not std_logic_vector\'("UX-H"))', "01X0UXX0"),
    ("16.7 to_x01, to_bit", 'to_string(to_x01(std_logic_vector\'("UHLZ"))) & to_string(to_bit(\'H\')) & to_string(to_bitvector("1X0H"))', "X10X11001"),
    ("9.2.3 matching operators", "to_string(std_logic'('H') ?= '1') & to_string(std_logic_vector'(\"1-0\") ?= \"110\") & to_string(std_logic'('U') ?= '1')", "11U"),
    ("16.8 is_x, std_match", 'boolean\'image(is_x(std_logic_vector\'("01Z"))) & boolean\'image(std_match(std_logic_vector\'("1-"), "1X"))', "truetrue"),
    ("16.7 hex and octal", 'to_hstring(std_logic_vector\'("11ZZZZ")) & to_ostring(std_logic_vector\'("1X1010"))', "3ZX2"),
]  # fmt: skip

NUMBERS: list[Row] = [
    ("16.8 a sum is as long as its longer operand", 'to_string(unsigned\'("1111") + unsigned\'("01")) & to_string(unsigned\'("111") + 1)', "0000000"),
    ("16.8 a product is as long as both", 'to_string(unsigned\'("11") * unsigned\'("11")) & to_string(signed\'("10") * signed\'("01"))', "10011110"),
    ("16.8 quotient, rem, mod", 'integer\'image(to_integer(signed\'("1001") / 2)) & integer\'image(to_integer(signed\'("1001") rem 2)) & integer\'image(to_integer(signed\'("1001") mod 4))', "-3-11"),
    ("16.8 a metavalue spoils a sum", 'to_string(unsigned\'("1X0") + 1) & to_string(unsigned\'("1H0") + 1)', "XXX111"),
    ("16.8 comparison is of numbers", 'boolean\'image(unsigned\'("01") = unsigned\'("001")) & boolean\'image(signed\'("11") < 0) & boolean\'image(unsigned\'("11") > 2)', "truetruetrue"),
    ("16.8 resize", 'to_string(resize(signed\'("101"), 5)) & to_string(resize(unsigned\'("101"), 2)) & to_string(resize(signed\'("10101"), 3))', "1110101101"),
    ("16.8 shifts", 'to_string(shift_left(unsigned\'("0011"), 2)) & to_string(shift_right(signed\'("1000"), 1)) & to_string(rotate_right(unsigned\'("0001"), 1))', "110011001000"),
    ("16.8 conversions", 'to_string(to_unsigned(10, 5)) & to_string(to_signed(-2, 3)) & integer\'image(to_integer(unsigned\'("1010")))', "0101011010"),
    ("16.8 minimum of vectors", 'integer\'image(to_integer(minimum(unsigned\'("101"), unsigned\'("011")))) & to_string(find_leftmost(unsigned\'("0010"), \'1\'))', "32"),
    ("16.8 negation wraps", 'to_string(-signed\'("1000")) & to_string(abs signed\'("1101"))', "10000011"),
    ("16.8 long vectors", 'to_hstring(unsigned\'(x"FFFFFFFFFFFFFFFFFFFF") + 1) & to_hstring(unsigned\'(x"00FFFFFFFFFFFFFFFFFF") + 1)', "0000000000000000000001000000000000000000"),
]  # fmt: skip


def test_scalars(simulate: Run) -> None:
    check_rows(simulate, SCALARS, TYPES)


def test_arrays(simulate: Run) -> None:
    check_rows(simulate, ARRAYS, TYPES)


def test_nine_values(simulate: Run) -> None:
    check_rows(simulate, NINE, TYPES)


def test_numeric_std(simulate: Run) -> None:
    check_rows(simulate, NUMBERS, TYPES)


def test_the_arithmetic_in_line_is_that_of_the_package(simulate: Run) -> None:
    """Lengths that are known are computed in line (engine/typed/numeric.py), unknown ones by the package: the same results."""
    lengths = (1, 3, 7, 8, 9, 16, 24, 31)
    rows: list[Row] = []
    for n in lengths:
        a, b = (0b1011010110111011011101110110101 >> 3) & ((1 << n) - 1), 0b110100111011 & ((1 << n) - 1)
        rows.append((f"{n} bits", f"both({n}, {a}, {b})", f"{(a + b) % 2**n} {(a - b) % 2**n} {str(a < b).lower()} same"))
    declarations = """
  function both(n, a, b : natural) return string is
    variable x : unsigned(n - 1 downto 0) := to_unsigned(a, n);
    variable y : unsigned(n - 1 downto 0) := to_unsigned(b, n);
  begin
    return integer'image(to_integer(x + y)) & " " & integer'image(to_integer(x - y)) & " " & boolean'image(x < y) & " " & known(n, a, b, x + y, x - y);
  end function;
"""
    known = "".join(
        f"""
      when {n} =>
        u{n} := to_unsigned(a, {n}); w{n} := to_unsigned(b, {n});
        if u{n} + w{n} = sum and u{n} - w{n} = difference and (u{n} < w{n}) = (a < b) then return "same"; end if;"""
        for n in lengths
    )
    variables = "".join(f"    variable u{n}, w{n} : unsigned({n - 1} downto 0);\n" for n in lengths)
    known = f"""
  function known(n, a, b : natural; sum, difference : unsigned) return string is
{variables}  begin
    case n is{known}
      when others => null;
    end case;
    return "other";
  end function;
"""
    check_rows(simulate, rows, known + declarations)
