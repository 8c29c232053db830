"""ieee.fixed_pkg (IEEE 1076-2008 16.10, annex G): each result by hand. The range of a result is that of the tables of G.4.2: a sum is one longer,
a product as long as both, a quotient reaches from l'high - r'low to l'low - r'high - 1 (unsigned)."""

from __future__ import annotations

from tests.rows import Row
from tests.vhdl.rows import CONTEXT, Run, bench, prints

FIXED = CONTEXT + "use ieee.fixed_float_types.all;\nuse ieee.fixed_pkg.all;\n"

CONVERSIONS: list[Row] = [
    ("exact", "to_string(to_ufixed(6.5, 3, -3))", "0110.100"),
    ("between two, to the even one", 'to_string(to_ufixed(6.5, 3, 0)) & " " & to_string(to_ufixed(7.5, 3, 0))', "0110.0 1000.0"),
    ("truncated", "to_string(to_ufixed(7.9, 3, 0, fixed_saturate, fixed_truncate))", "0111.0"),
    ("the largest", "to_string(to_ufixed(20.0, 3, -1))", "1111.1"),
    ("modulo 16", "to_string(to_ufixed(20.0, 3, -1, overflow_style => fixed_wrap))", "0100.0"),
    ("-3 + 0.5625", "to_string(to_sfixed(-2.4375, 3, -4))", "1101.1001"),
    ("the largest and the least", 'to_string(to_sfixed(9.0, 3, -2)) & " " & to_string(to_sfixed(-9.0, 3, -2))', "0111.11 1000.00"),
    ("-0.75 truncated is nearer to 0", "to_string(to_sfixed(-0.75, 1, -1, round_style => fixed_truncate))", "11.1"),
    ("numbers of the language", 'to_string(to_ufixed(5, 3, -1)) & " " & to_string(to_sfixed(-5, 3))', "0101.0 1011.0"),
    ("bits as they are", "to_string(to_real(to_ufixed(std_logic_vector'(\"0110\"), 1, -2)), 2)", "1.50"),
    ("a vector of numeric_std", "to_string(to_real(to_sfixed(signed'(\"1110\"))), 1)", "-2.0"),
    ("with a sign bit", "to_string(to_sfixed(to_ufixed(6.5, 2, -1)))", "0110.1"),
    ("whole numbers", 'to_string(to_integer(to_ufixed(2.5, 3, -1))) & " " & to_string(to_integer(to_ufixed(3.5, 3, -1)))', "2 4"),
    ("negative ones", "to_string(to_integer(to_sfixed(-2.5, 3, -1)))", "-2"),
    ("to numeric_std", 'to_string(to_unsigned(to_ufixed(5.0, 3, -1), 4)) & " " & to_string(to_slv(to_ufixed(5.0, 3, -1)))', "0101 01010"),
    ("of the size of another", "to_string(resize(to_ufixed(1.5, 1, -1), to_ufixed(0, 3, -2)))", "0001.10"),
    ("rounded up beyond the end", "to_string(resize(to_ufixed(3.75, 2, -2), 1, 0))", "11.0"),
    ("the same, modulo", "to_string(resize(arg => to_ufixed(3.75, 2, -2), left_index => 1, right_index => 0, overflow_style => fixed_wrap))", "00.0"),
    ("-2.5 and -3.5 to the even ones", 'to_string(resize(to_sfixed(-2.5, 3, -1), 3, 0)) & to_string(resize(to_sfixed(-3.5, 3, -1), 3, 0))', "1110.01100.0"),
    ("far to the right", "to_string(resize(to_ufixed(0.375, -1, -3), 2, -4))", "000.0110"),
    ("far to the left", "to_string(resize(to_ufixed(12.0, 3, 0), 5, 2))", "001100.0"),
    ("saturate", "to_string(ufixed'(saturate(1, -1))) & to_string(sfixed'(saturate(1, -1)))", "11.101.1"),
    ("text", "to_string(to_real(ufixed'(from_string(\"01.10\", 1, -2))), 2)", "1.50"),
]  # fmt: skip
ARITHMETIC: list[Row] = [
    ("13.25", "to_string(to_ufixed(6.625, 3, -3) + to_ufixed(6.625, 3, -3))", "01101.010"),
    ("of different sizes: 2.75", "to_string(to_ufixed(2.5, 1, -1) + to_ufixed(0.25, 0, -2))", "010.11"),
    ("-0.5", "to_string(to_sfixed(1.5, 2, -1) - to_sfixed(2.0, 2, -1))", "1111.1"),
    ("3.75", "to_string(to_ufixed(1.5, 1, -1) * to_ufixed(2.5, 1, -1))", "0011.11"),
    ("-3", "to_string(to_sfixed(-1.5, 2, -1) * to_sfixed(2.0, 2, -1))", "111101.00"),
    ("1.5", "to_string(to_ufixed(3.0, 1, 0) / to_ufixed(2.0, 1, 0))", "01.10"),
    ("a third, two thirds", 'to_string(to_ufixed(1.0, 1, 0) / to_ufixed(3.0, 1, 0)) & " " & to_string(to_ufixed(2.0, 1, 0) / to_ufixed(3.0, 1, 0))', "00.01 00.11"),
    ("-1.5", "to_string(to_sfixed(-3.0, 2, 0) / to_sfixed(2.0, 2, 0))", "1110.10"),
    ("truncated", "to_string(divide(to_ufixed(2.0, 1, 0), to_ufixed(3.0, 1, 0), fixed_truncate))", "00.10"),
    ("a quarter", "to_string(reciprocal(to_ufixed(4.0, 2, 0)))", "0.010"),
    ("of the sign of the right one, of the left one", 'to_string(to_sfixed(-7.0, 3, 0) mod to_sfixed(3.0, 3, 0)) & " " & to_string(to_sfixed(-7.0, 3, 0) rem to_sfixed(3.0, 3, 0))', "0010.0 1111.0"),
    ("8 of -8", 'to_string(abs to_sfixed(-8.0, 3, 0)) & " " & to_string(-to_sfixed(-8.0, 3, 0))', "01000.0 01000.0"),
    ("times 4", "to_string(scalb(to_ufixed(1.5, 1, -1), 2))", "0110.0"),
    ("with a number", 'to_string(to_ufixed(1.5, 3, -1) + 2) & " " & to_string(0.5 * to_ufixed(1.5, 1, -1))', "00011.1 0000.11"),
    ("an unknown bit", "to_string(ufixed'(unk) + to_ufixed(1.0, 0, -1))", "XXX.XX"),
    ("equal in other sizes", "to_string(to_ufixed(1.5, 1, -1) = to_ufixed(1.5, 4, -4))", "true"),
    ("order", "to_string(to_sfixed(-1.0, 2, 0) < 0) & to_string(1.5 > to_ufixed(1.25, 2, -2)) & to_string(to_ufixed(2.0, 3, 0) /= 2)", "truetruefalse"),
    ("matching", "to_string(unk ?= to_ufixed(1.0, 1, -2)) & to_string(to_ufixed(1.0, 1, -2) ?< to_ufixed(1.5, 1, -1))", "01"),
    ("the greater one", "to_string(maximum(to_sfixed(-1.5, 2, -1), to_sfixed(1.0, 1, 0)))", "001.0"),
    ("bit by bit", 'to_string(to_ufixed(1.5, 1, -1) and not to_ufixed(1.0, 1, -1)) & " " & to_string(xor to_ufixed(1.5, 1, -1))', "00.1 0"),
    ("shifts", 'to_string(to_ufixed(1.5, 1, -1) sll 1) & " " & to_string(to_sfixed(-2.0, 1, -1) sra 1)', "11.0 11.0"),
    ("places", "to_string(find_leftmost(to_ufixed(1.5, 1, -1), '1')) & to_string(find_rightmost(to_ufixed(1.5, 1, -1), '1'))", "0-1"),
    ("the sign", "to_string(is_negative(to_sfixed(-0.5, 1, -1)))", "true"),
    ("bounds of results", "to_string(ufixed_high(3, -3, '+', 4, -1)) & to_string(ufixed_low(3, -3, '*', 4, -1)) & to_string(sfixed_high(3, -3, '/', 4, -1)) & to_string(ufixed_low(3, -3, '/', 4, -1))", "5-45-8"),
]  # fmt: skip
TEXT: list[Row] = [
    ("less than 1", "to_string(to_ufixed(0.375, -1, -3)) & to_string(to_sfixed(-0.375, -1, -3))", "0.0111.101"),
    ("16ths, 8ths", 'to_hstring(to_ufixed(6.625, 3, -3)) & " " & to_ostring(to_ufixed(6.625, 3, -3))', "6.A 06.5"),
]


def run_rows(simulate: Run, rows: list[Row], declarations: str = "") -> None:
    says = "\n".join(f"    say({expression});" for _, expression, _ in rows)
    prints(simulate, bench(f"  begin\n{says}", declarations, context=FIXED), "\n".join(wanted for _, _, wanted in rows))


def test_conversions_round_and_saturate(simulate: Run) -> None:
    run_rows(simulate, CONVERSIONS)


def test_arithmetic_has_room_for_every_result(simulate: Run) -> None:
    run_rows(simulate, ARITHMETIC, '  constant unk : ufixed(1 downto -2) := "0X10";\n')


def test_text(simulate: Run) -> None:
    run_rows(simulate, TEXT)
    body = """    variable l, m : line;
    variable u : ufixed(2 downto -2);
    variable s : sfixed(0 downto -2);
    variable ok : boolean;
  begin
    write(l, to_ufixed(2.5, 2, -2), right, 8);
    hwrite(l, to_ufixed(2.5, 3, -4), left, 5);
    say(l.all & "|");
    m := new string'(" 101.01 1.1_0 12");
    read(m, u);
    read(m, s, ok);
    say(to_string(u) & to_string(s) & to_string(ok));
    read(m, s, ok);
    say(to_string(ok));"""
    prints(simulate, bench(body, context=FIXED), "010.102.8  |\n101.011.10true\nfalse")


def test_what_cannot_be_is_told(simulate: Run) -> None:
    """G.4.4: a division by zero gives the largest number; a negative one has no place among those without a sign."""
    body = """    variable x : ufixed(1 downto 0) := "0X";
  begin
    say(to_string(to_ufixed(1.0, 1, 0) / to_ufixed(0.0, 1, 0)));
    say(to_string(to_ufixed(-1.0, 1, 0)));
    say(to_string(x = to_ufixed(1.0, 1, 0)) & to_string(to_integer(x)));"""
    done = prints(simulate, bench(body, context=FIXED), "11.11\n00.0\nfalse0")
    for told in (
        "DIVIDE: Division by zero",
        "TO_UFIXED: Negative argument passed",
        '"=": metavalue detected, returning FALSE',
        "TO_INTEGER: metavalue",
    ):
        assert done.err.count(f"FIXED_PKG.{told}") == 1, done.err


def test_registers_of_fixed_point_numbers(simulate: Run) -> None:
    """A filter of first order: y + (x - y) / 4 for x = 1 comes near to 1 from below: 0.25, 0.4375, 0.578125, ..."""
    declarations = """  signal clk : std_logic := '0';
  signal x : sfixed(2 downto -6) := to_sfixed(1.0, 2, -6);
  signal y : sfixed(2 downto -6) := to_sfixed(0.0, 2, -6);"""
    concurrent = """  step : process (clk) begin
    if rising_edge(clk) then
      y <= resize(y + scalb(x - y, -2), y, round_style => fixed_truncate);
    end if;
  end process;"""
    body = """  begin
    for k in 1 to 4 loop
      clk <= '1'; wait for 5 ns; clk <= '0'; wait for 5 ns;
      say(to_string(to_real(y), 6));
    end loop;"""
    prints(simulate, bench(body, declarations, concurrent, context=FIXED), "0.250000\n0.437500\n0.578125\n0.671875")
