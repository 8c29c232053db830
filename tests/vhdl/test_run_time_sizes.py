"""Arrays and records whose elements get their size only while the design runs: as variables, results, arguments, behind access values
(IEEE 1076-2008 5.3.2.1, 5.3.3, 9.3.4), and 'subtype and 'element of objects (16.2.2)."""

from __future__ import annotations

import pytest

from tests.vhdl.rows import Run, bench, check_rows, prints

DECLARATIONS = """
  type words is array (natural range <>) of std_logic_vector;
  type packet is record kind : character; data : std_logic_vector; len : natural; more : words; end record;
  type packets is array (natural range <>) of packet;
  function word_list(first, count, width : natural) return words is
    variable r : words(0 to count - 1)(width - 1 downto 0);
  begin
    for i in r'range loop r(i) := std_logic_vector(to_unsigned(first + i, width)); end loop;
    return r;
  end function;
  function joined(a, b : words) return words is
  begin
    return a & b;
  end function;
  function total(w : words) return natural is
    variable sum : natural := 0;
  begin
    for i in w'range loop sum := sum + to_integer(unsigned(w(i))); end loop;
    return sum;
  end function;
  function widest(w : words) return natural is
  begin
    return w'element'length;
  end function;
  procedure swap(variable w : inout words; i, j : in natural) is
    variable t : w'element;
  begin
    t := w(i); w(i) := w(j); w(j) := t;
  end procedure;
  function packed(k : character; d : std_logic_vector; n : natural) return packet is
    variable p : packet(data(d'length downto 1), more(1 to n)(2 * n - 1 downto 0));
  begin
    p.kind := k; p.data := d; p.len := n;
    for i in p.more'range loop p.more(i) := std_logic_vector(to_unsigned(i, 2 * n)); end loop;
    return p;
  end function;
  function show(p : packet) return string is
  begin
    return p.kind & " " & to_string(p.data) & integer'image(p.len) & " " & integer'image(p.more'length) & ":" & to_string(p.more(p.more'right));
  end function;
  function again(p : packet; times : natural) return packet is
    variable q : packet(data(p.data'length * 2 - 1 downto 0), more(p.more'range)(p.more'element'range));
  begin
    if times = 0 then return p; end if;
    q := (p.kind, p.data & p.data, p.len + 1, p.more);
    return again(q, times - 1);
  end function;
  function fir(x : signed; taps : positive) return signed is
    type line_t is array (0 to taps - 1) of signed(x'length - 1 downto 0);
    variable d : line_t := (others => (others => '0'));
    variable s : signed(x'length + 3 downto 0) := (others => '0');
  begin
    d(0) := x;
    for i in 1 to taps - 1 loop d(i) := shift_right(d(i - 1), 1); end loop;
    for i in d'range loop s := s + d(i); end loop;
    return s;
  end function;
"""
VARIABLES = """    variable w : words(0 to 2)(3 downto 0) := (x"3", x"2", x"1");
    variable n : natural := 3;"""
ROWS = [
    ("a result and its element", "to_string(word_list(5, 3, 4)(2)) & integer'image(total(word_list(5, n, n + 2)))", "011118"),
    ("9.2.5", "integer'image(total(joined(word_list(1, 2, 6), word_list(3, 3, 6))))", "15"),
    ("16.2.2", "integer'image(widest(word_list(0, 1, n * 3)))", "9"),
    ("9.2.3", "boolean'image(w = word_list(1, 3, n + 1)) & boolean'image(w = (w(0), w(1), w(2)))", "falsetrue"),
    ("5.3.3", "show(packed('a', \"101\", 2))", "a 1012 2:0010"),
    ("a function calls itself", "show(again(packed('b', \"10\", n), 2))", "b 101010105 3:000011"),
    ("9.2.3", "boolean'image(packed('a', \"101\", 2) = packed('a', \"101\", n - 1))", "true"),
    ("9.2.3", "boolean'image(packed('a', \"101\", 2) = packed('a', \"101\", n))", "false"),
    ("-24 - 12 - 6 - 3", "integer'image(to_integer(fir(to_signed(-24, 8), n + 1)))", "-45"),
]


def test_values(simulate: Run) -> None:
    check_rows(simulate, ROWS, DECLARATIONS, VARIABLES)


def test_variables_of_the_subtype_of_an_element(simulate: Run) -> None:
    body = (
        VARIABLES
        + """
  begin
    swap(w, 0, 2); say(to_string(w(0)) & to_string(w(2)));
    w := word_list(9, n, 4); say(to_string(w(1)));"""
    )
    prints(simulate, bench(body, DECLARATIONS), "00010011\n1010\n")


OBJECTS = """
  signal s : words(0 to 1)(3 downto 0);
  signal p : packet(data(7 downto 0), more(1 to 2)(3 downto 0));
  procedure drive(signal q : out packet; k : character) is begin q <= packed(k, "10101010", 2); end;
  function flipped(x : std_logic_vector) return std_logic_vector is
    variable r : x'subtype;
    constant ones : x'subtype := (others => '1');
  begin
    for i in x'range loop r(i) := not x(i); end loop;
    return r and ones;
  end function;
  function longer(x : packet) return natural is
    variable y : x'subtype;
  begin
    y := x;
    return y.data'length + y.more'length * y.more(1)'length;
  end function;
"""


def test_signals_and_allocated_objects(simulate: Run) -> None:
    body = """    type packet_ptr is access packet;
    type words_ptr is access words;
    variable x : packet_ptr; variable y : words_ptr; variable n : natural := 5;
  begin
    drive(p, 'k'); wait for 1 ns;
    say(show(p));
    x := new packet'(packed('x', "11", n));
    y := new words'(word_list(1, n, 3));
    say(to_string(x.data) & integer'image(x.more'length) & to_string(y(4)) & integer'image(y.all'length));
    y := new words(2 to 3)(n - 1 downto 0);
    y(3) := "10011"; x.all := packed('z', "01", n);
    say(to_string(y.all(3)) & to_string(y(2)) & x.kind & to_string(x.data));
    say(to_string(flipped("1010")) & integer'image(longer(x.all)));"""
    wanted = "k 101010102 2:0010\n1151015\n10011UUUUUz01\n010152\n"
    prints(simulate, bench(body, DECLARATIONS + OBJECTS), wanted)


@pytest.mark.parametrize(
    "statement",
    [
        "w := word_list(9, n, n + 2)",
        "s <= word_list(1, 2, n)",
        "w := w(0 to 1) & word_list(1, 1, n + 3)",
        "p <= packed('p', \"1\", 2)",
    ],
)
def test_parts_of_another_length_stop_the_run(simulate: Run, statement: str) -> None:
    """9.2.5, 10.5.2, 10.6.2: the elements have to be as long as those of the place, in values as in places."""
    body = (
        VARIABLES
        + f"""
  begin
    {statement}; wait for 1 ns; say("went on");"""
    )
    done = simulate(bench(body, DECLARATIONS + OBJECTS), suffix=".vhd")
    assert done.status != 0
    assert "elements, what it is for has" in done.err
    assert "Traceback" not in done.err


def test_bounds_of_variables_in_a_process(simulate: Run) -> None:
    """Declarations of a process are elaborated one after the other, and see the first values of those before (14.3.1); what an
    allocator makes is as long as its expressions say when it runs, and stays so."""
    body = """    type text_ptr is access string;
    variable n : natural := 5;
    constant k : natural := n + 1;
    variable b : bit_vector(1 to n);
    variable c : bit_vector(k downto 0);
    subtype few is integer range 0 to n;
    variable e : few := 5;
    variable z, y : text_ptr;
  begin
    n := 3;
    z := new string(1 to n);
    n := 7;
    y := new string(n downto n - 1);
    say(integer'image(b'length) & integer'image(c'length) & integer'image(few'high) & integer'image(z'length) & integer'image(y'left));"""
    prints(simulate, bench(body), "57537\n")


@pytest.mark.parametrize(
    "concurrent",
    [
        '  g : if s = 4 generate\n    assert false report "there";\n  end generate;',
        '  g : for i in 0 to s generate\n    assert false report "there";\n  end generate;',
        "  b : block is\n    signal t : bit_vector(1 to s);\n  begin\n  end block;",
    ],
)
def test_what_the_design_is_made_of_is_known_before_the_run(simulate: Run, concurrent: str) -> None:
    """11.9, 14.4.2: a signal has no value yet that a generate or a bound could be made of."""
    done = simulate(bench("  begin", "  signal s : natural := 4;", concurrent), suffix=".vhd")
    assert "'s' is a signal, whose value only the run gives: this has to be known before" in done.err
    assert done.err.count("error:") == 1


def test_what_gives_the_size_is_evaluated_once(simulate: Run) -> None:
    """9.3.3.3, 9.3.7: the bounds of an aggregate, of a slice and of an allocator are evaluated once each."""
    body = """    variable calls : natural := 0;
    variable v : bit_vector(1 to 5) := "10101";
    type link is access bit_vector;
    variable q : link;
    impure function three return positive is begin calls := calls + 1; return 3; end function;
    impure function told(b : bit_vector) return string is
      variable n : natural := calls;
    begin
      calls := 0;
      return to_string(b) & to_string(b'left) & to_string(b'right) & to_string(n);
    end function;
  begin
    say(told((1 to three => '1')) & " " & told((three downto 1 => '0')) & " " & told(v(1 to three)));
    q := new bit_vector(1 to three);
    say(told(q.all));
    q := new bit_vector'(three downto 1 => '1');
    say(told(q.all));
    for i in 1 to three loop v(i) := '0'; end loop;
    say(told(v));"""
    prints(simulate, bench(body), "111131 000311 101131\n000131\n111311\n00001151")
