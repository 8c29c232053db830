"""What the scanners take for one token. Each row names the clause that says so."""

from __future__ import annotations

import random

import pytest

from mevrik.lang.diagnostics import Diagnostics
from mevrik.lang.source import SourceMap
from mevrik.lang.verilog.preprocess import Preprocessor
from mevrik.lang.vhdl.tokens import tokenize


def verilog(text: str, sv: bool = True) -> tuple[list[tuple[str, str]], list[str]]:
    """Kinds and texts without the last, and the codes of what was reported."""
    sources = SourceMap()
    diagnostics = Diagnostics(sources)
    found = Preprocessor(sources, diagnostics, [], {}).run(sources.add("gate.sv", text), sv)
    return list(zip(found.kinds, found.texts, strict=True))[:-1], [d.code for d in diagnostics.items]


def vhdl(text: str) -> tuple[list[tuple[str, str]], list[str]]:
    sources = SourceMap()
    diagnostics = Diagnostics(sources)
    found = tokenize(sources.add("gate.vhd", text), diagnostics)
    return list(zip(found.kinds, found.texts, strict=True))[:-1], [d.code for d in diagnostics.items]


@pytest.mark.parametrize(
    "text, tokens",
    [
        ("a$b_1 _x", ["id a$b_1", "id _x"]),  # 5.6
        ("\\a+b c", ["id a+b", "id c"]),  # 5.6.1: up to white space; the backslash is no part of the name
        ("\\module ;", ["id module", "; ;"]),  # 5.6.1: an escaped keyword is a name
        ("module Module", ["module module", "id Module"]),  # 5.6.2: keywords are in lower case only
        ("12 'h F 4'b1", ["num 12 'h F", "num 4'b1"]),  # 5.7.1: white space between size, base and digits
        ("16'sHx_?z", ["num 16'sHx_?z"]),
        ("-8'd6", ["- -", "num 8'd6"]),  # 5.7.1: the sign is an operator
        ("'0 'X '1a", ["num '0", "num 'X", "' '", "num 1", "id a"]),  # 5.7.1: one digit
        ("{4'{1'b0}}", ["{ {", "num 4", "'{ '{", "num 1'b0", "} }", "} }"]),
        ("1.2 1_0.5e-3 7E4 3.x", ["num 1.2", "num 1_0.5e-3", "num 7E4", "num 3", ". .", "id x"]),  # 5.7.2: digits on both sides
        ("40ps 2.1ns 1step 3s_", ["time 40ps", "time 2.1ns", "num 1", "id step", "num 3", "id s_"]),  # 5.8
        ("40 ps", ["num 40", "id ps"]),  # 5.8: no space before the unit
        (r'"a\"b" "c"', ['str "a\\"b"', 'str "c"']),  # 5.9
        ('"a\\\nb"', ['str "a\\\nb"']),  # 5.9: a line that ends with a backslash goes on
        ('"// no" /* "no" */ x // y', ['str "// no"', "id x"]),  # 5.4
        ("/* a // b\n*/ c", ["id c"]),  # 5.4: block comments don't nest
        ("$display $$", ["sys $display", "sys $$"]),  # 5.6.3
        ("a<<<=b>>>=c", ["id a", "<<<= <<<=", "id b", ">>>= >>>=", "id c"]),  # 5.5: the longest operator
        ("a->>b<->c|->d", ["id a", "->> ->>", "id b", "<-> <->", "id c", "|-> |->", "id d"]),
        ("a+:b ++c", ["id a", "+: +:", "id b", "++ ++", "id c"]),
        ("@(*)", ["@ @", "(* (*", ") )"]),
    ],
)
def test_systemverilog(text: str, tokens: list[str]) -> None:
    found, told = verilog(text)
    assert [" ".join(t) for t in found] == tokens
    assert not told


@pytest.mark.parametrize(
    "text, tokens",
    [
        ("logic int", ["id logic", "id int"]),  # 1364-2005 annex B: none of its keywords
        ("a++", ["id a", "+ +", "+ +"]),
        ("40ps", ["num 40", "id ps"]),
        ("a+=b", ["id a", "+ +", "= =", "id b"]),
        ("a<<<b===c", ["id a", "<<< <<<", "id b", "=== ===", "id c"]),
    ],
)
def test_verilog_has_its_own(text: str, tokens: list[str]) -> None:
    assert [" ".join(t) for t in verilog(text, sv=False)[0]] == tokens


@pytest.mark.parametrize(
    "text, tokens, code",
    [
        ('a = "b;\nc', ["id a", "= =", 'str ""', "; ;", "id c"], "string-open"),
        ("a /* b", ["id a"], "comment-open"),
        ("a € b", ["id a", "id b"], "character"),
        ("a\u00a0b", ["id a", "id b"], ""),  # a blank that doesn't break
        ('`ifdef NO\n € " /* `else \n */ x\n`endif\ny', ["id y"], ""),  # 22.6: what is left out is only read for directives
    ],
)
def test_what_is_no_token(text: str, tokens: list[str], code: str) -> None:
    found, told = verilog(text)
    assert [" ".join(t) for t in found] == tokens
    assert told == [code] * bool(code)


@pytest.mark.parametrize(
    "text, tokens",
    [
        ("Gate_1 END", ["id Gate_1", "end END"]),  # 15.4: the case of letters doesn't matter
        (r"\a\\b\ \end\ c", ["id \\a\\\\b\\", "id \\end\\", "id c"]),  # 15.4.3
        ("16#F.8#e+2 2#1_0# 12e3 1_0.5", ["based 16#F.8#e+2", "based 2#1_0#", "number 12e3", "number 1_0.5"]),  # 15.5
        ("16:FF:", ["based 16:FF:"]),  # 15.10: the colon for the number sign
        ("0 to 3", ["number 0", "to to", "number 3"]),
        ("1..2", ["number 1", ". .", ". .", "number 2"]),
        ("('a',''',',')", ["( (", "char 'a'", ", ,", "char '''", ", ,", "char ','", ") )"]),  # 15.6
        ("a'b'c x'('1')", ["id a", "' '", "id b", "' '", "id c", "id x", "' '", "( (", "char '1'", ") )"]),
        ("std_logic'('1') when '0' and'1'", [
            "id std_logic", "' '", "( (", "char '1'", ") )", "when when", "char '0'", "and and", "char '1'",
        ]),  # behind a keyword it is a literal
        ("p.all'length s(1)'event \"ab\"'length", [
            "id p", ". .", "all all", "' '", "id length", "id s", "( (", "number 1", ") )", "' '", "id event", 'string "ab"', "' '",
            "id length",
        ]),
        ('"a""b" %c%%d%', ['string "a""b"', "string %c%%d%"]),  # 15.7, 15.10
        ('x"F" 12UX"f-" sb"1" d"10" ub"0" x "F"', [
            'bits x"F"', 'bits 12UX"f-"', 'bits sb"1"', 'bits d"10"', 'bits ub"0"', "id x", 'string "F"',
        ]),  # 15.8
        ("a -- b\nc /* d\n-- */ e", ["id a", "id c", "id e"]),  # 15.9
        ("a<=b**c/=d?/=e??f<>g", [
            "id a", "<= <=", "id b", "** **", "id c", "/= /=", "id d", "?/= ?/=", "id e", "?? ??", "id f", "<> <>", "id g",
        ]),
        ("é_1 ÀB", ["id é_1", "id ÀB"]),  # 15.2: the letters of ISO 8859-1
    ],
)  # fmt: skip
def test_vhdl(text: str, tokens: list[str]) -> None:
    found, told = vhdl(text)
    assert [" ".join(t) for t in found] == tokens
    assert not told


@pytest.mark.parametrize(
    "text, tokens",
    [
        ('a := "b;\nc', ["id a", ":= :=", 'string ""', "; ;", "id c"]),
        ("a /* b", ["id a"]),
        ("a € b × c", ["id a", "id b", "id c"]),  # the sign of multiplication is no letter
    ],
)
def test_what_is_no_token_of_vhdl(text: str, tokens: list[str]) -> None:
    found, told = vhdl(text)
    assert [" ".join(t) for t in found] == tokens
    assert told


WORDS = {
    verilog: [
        "begin",
        "sluice",
        "\\9lock ",
        "4'b10xz",
        "'z",
        "1.5e3",
        "10ns",
        '"a\\n"',
        "$time",
        "<<<=",
        "->",
        "'{",
        "::",
        "+:",
        "(*",
    ],
    vhdl: ["begin", "sluice", "\\9 lock\\", "16#1F#", "1.5e3", '"a""b"', 'x"1F"', "**", "?/=", ":=", "<>", "%a%"],
}


@pytest.mark.parametrize("read", [verilog, vhdl])
def test_tokens_stand_for_themselves_whatever_is_between_them(read: object) -> None:
    """Blanks, line ends and comments separate tokens and are nothing else."""
    rng = random.Random(7)
    between = {verilog: [" ", "\t\n", "/**/ ", " // x\n"], vhdl: [" ", "\r\n", " /* -- */ ", " -- 'x' \"\n"]}[read]
    for _ in range(200):
        words = [rng.choice(WORDS[read]) for _ in range(rng.randrange(1, 30))]
        found, told = read("".join(word + " " + rng.choice(between) for word in words))  # type: ignore[operator]
        plain = [w.strip()[1:] if w.startswith("\\") and read is verilog else w for w in words]
        assert [text for _, text in found] == plain
        assert not told
