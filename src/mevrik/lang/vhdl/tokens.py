"""Text → tokens (IEEE 1076-2008 clause 15)."""

from __future__ import annotations

import re

from mevrik.design.record import Value
from mevrik.lang import scan
from mevrik.lang.diagnostics import Diagnostics
from mevrik.lang.scan import Notation, Scanner
from mevrik.lang.source import SourceText

KEYWORDS = frozenset(
    """abs access after alias all and architecture array assert assume assume_guarantee attribute begin block body buffer bus case
    component configuration constant context cover default disconnect downto else elsif end entity exit fairness file for force
    function generate generic group guarded if impure in inertial inout is label library linkage literal loop map mod nand new next
    nor not null of on open or others out package parameter port postponed procedure process property protected pure range record
    register reject release rem report restrict restrict_guarantee return rol ror select sequence severity shared signal sla sll sra
    srl strong subtype then to transport type unaffected units until use variable  wait when while with xnor
    xor""".split()
)

# reserved since 2002 or 2008 only: sources of 1987 and 1993 use them as names
_PROPERTY_WORDS = frozenset("assume assume_guarantee cover fairness property restrict restrict_guarantee sequence strong".split())
_LATER = _PROPERTY_WORDS | frozenset("context default force parameter protected release".split())
_BEFORE_STATEMENTS = frozenset((";", "begin", "generate", "is", "then", "else", "loop", "=>", ":"))

_OPERATORS = """** => := /= >= <= <> ?/= ?<= ?>= ?= ?< ?> ?? << >>""".split()
_MARKS = "-&'()*+,./:;<=>|[]?@^!`{}"  # the braces are of the property language: the parser says so
_NOTATION = Notation("vhdl", [*_OPERATORS, *_MARKS], KEYWORDS - {"all"})
_KINDS = {word: word for word in [*_OPERATORS, *_MARKS, *KEYWORDS]}
_KIND = {
    scan.IDENTIFIER: "id", scan.ESCAPED: "id", scan.NUMBER: "number", scan.BASED: "based", scan.BITS: "bits", scan.STRING: "string",
    scan.CHARACTER: "char", scan.OPERATOR: "",
}  # fmt: skip
_LAST_UNDERLINE = re.compile(r"_(?![0-9A-Za-z])")
_GROWN_TOGETHER = re.compile(r"(?<![\w#\\])\d[\d_.]*(?![eE][+-]?\d)[A-Za-z]+(?![\"%\w])")  # 10ns; neither 1e3 nor 8x"ff"
_STATEMENT_END = re.compile(r"\)*\s*;\s*$")


class Tokens(Value):
    """Parallel lists; identifiers are lower-case in `ids` and as written in `texts`. The last kind is "eof"."""

    kinds: list[str]
    ids: list[str]
    texts: list[str]
    positions: list[int]


def tokenize(source: SourceText, diagnostics: Diagnostics) -> Tokens:
    """All tokens of a text; what is no token is reported and left out."""
    text, base = source.text, source.base
    found = Tokens([], [], [], [])
    scanner = Scanner(text, _NOTATION)
    why, at = scan.BAD, 0
    while why != scan.END:
        why, stop = scanner.run(at)
        _take(found, scanner, base)
        if why == scan.OPEN:
            diagnostics.error(base + stop, "this comment is never closed; add */", "comment-open")
            why = scan.END
        elif why == scan.BAD and text[stop] == '"':
            diagnostics.error(base + stop, 'this string has no closing " on its line', "syntax")
            _add(found, "string", '""', base + stop)
            line = text.find("\n", stop)
            line = line if line >= 0 else len(text)
            tail = _STATEMENT_END.search(text, stop, line)  # what ends the statement was surely not meant as text
            at = tail.start() if tail else line
        elif why == scan.BAD:
            diagnostics.error(base + stop, f"the character {text[stop]!r} has no meaning here", "syntax")
            at = stop + 1
    if "__" in text or _LAST_UNDERLINE.search(text):
        _check_underlines(found, diagnostics)
    if _GROWN_TOGETHER.search(text):
        _check_separators(found, diagnostics)
    _add(found, "eof", "", base + len(text))
    kinds, ids = found.kinds, found.ids
    later = [k for k, kind in enumerate(kinds) if kind in _LATER]
    for k in later:
        if not _is_reserved(kinds, ids, k):
            kinds[k] = "id"
    return found


def _check_underlines(found: Tokens, diagnostics: Diagnostics) -> None:
    """15.4.2, 15.5.2: an underline stands between two letters or digits."""
    for kind, word, pos in zip(found.kinds, found.texts, found.positions, strict=True):
        if kind in ("id", "number", "based") and word[0] != "\\" and ("__" in word or word[-1] == "_"):
            message = f"'{word}': an underline stands between two letters or digits, not at an end or beside another one (15.4.2)"
            diagnostics.error(pos, message, "underline")


def _check_separators(found: Tokens, diagnostics: Diagnostics) -> None:
    """15.3: a number and a word beside it are separated."""
    for k in range(len(found.kinds) - 1):
        if found.kinds[k] in ("number", "based") and found.positions[k] + len(found.texts[k]) == found.positions[k + 1]:
            number, word = found.texts[k], found.texts[k + 1]
            if word[0].isalpha():
                message = (
                    f"'{number}{word}': the standard wants a blank between a number and a word (15.3); write '{number} {word}'"
                )
                diagnostics.warning(found.positions[k], message, "separator")


def _take(found: Tokens, scanner: Scanner, base: int) -> None:
    codes, texts = scanner.codes, scanner.texts
    ids = [text.lower() if code == scan.IDENTIFIER else text for code, text in zip(codes, texts, strict=True)]
    found.kinds += map(_KINDS.get, ids, map(_KIND.__getitem__, codes))
    found.ids += ids
    found.texts += texts
    found.positions += [base + start for start in scanner.starts]


def _add(found: Tokens, kind: str, text: str, pos: int) -> None:
    found.kinds.append(kind)
    found.ids.append(text)
    found.texts.append(text)
    found.positions.append(pos)


def _is_reserved(kinds: list[str], ids: list[str], k: int) -> bool:
    """Whether one of the later reserved words stands where the language of 2008 has it; elsewhere it is a name."""
    word, last, following = kinds[k], kinds[k - 1] if k else ";", kinds[k + 1]
    if word in ("force", "release"):
        return last == "<="
    if word == "protected":
        return last in ("is", "end") or following == "body"
    if word == "parameter":
        return following == "(" and last in ("id", "string", ")")
    if word == "context":
        if last == "end" and following == ";":  # of a context declaration; else of something that is called so
            return any(kinds[j] == "context" and kinds[j + 2] == "is" for j in range(k - 1))
        return last in (";", "end") and following == "id"
    if word == "default":
        return ids[k + 1] == "clock"
    return last in _BEFORE_STATEMENTS and following not in ("<=", ":=", ":", ",", ".", ")", ";")


_BASES = {"b": 1, "o": 3, "x": 4}


def bit_string(word: str) -> str | None:
    """The characters that a bit string literal stands for (15.8); None if it is malformed."""
    found = re.fullmatch(r"(\d*)([usUS]?)([boxdBOXD])[\"%](.*)[\"%]", word)
    if found is None:
        return None
    size, sign, base = found[1], found[2].lower(), found[3].lower()
    digits = found[4].replace("_", "")
    if base == "d":
        if not digits.isdigit():
            return None
        bits = f"{int(digits):b}" if int(digits) else "0"
    else:
        width = _BASES[base]
        bits = ""
        for digit in digits:
            value = int(digit, 16) if digit in "0123456789abcdefABCDEF" else -1
            if value >= 1 << width:
                return None
            bits += f"{value:0{width}b}" if value >= 0 else digit * width
    if not size:
        return bits
    length = int(size)
    if len(bits) < length:
        fill = bits[0] if sign == "s" and bits else "0"
        return fill * (length - len(bits)) + bits
    lost, kept = bits[: len(bits) - length], bits[len(bits) - length :]
    wanted = kept[:1] if sign == "s" else "0"
    return kept if all(c == wanted for c in lost) else None


def number(word: str) -> int | float | None:
    """The value of an abstract literal (15.5); None if it is malformed."""
    word = word.replace("_", "").lower()
    found = re.fullmatch(r"(\d+)[#:]([0-9a-f]+)(?:\.([0-9a-f]+))?[#:](?:e([+-]?\d+))?", word)
    if found is not None:
        base = int(found[1])
        if not 2 <= base <= 16:
            return None
        exponent = int(found[4] or 0)
        try:
            whole = int(found[2], base)
            if found[3] is None:
                return int(whole * base**exponent) if exponent >= 0 else None
            return float((whole + int(found[3], base) / base ** len(found[3])) * float(base) ** exponent)
        except (ValueError, OverflowError):
            return None
    if "." in word:
        return float(word)
    if "e" in word:
        mantissa, _, power = word.partition("e")
        if int(power) < 0 or int(power) > 400:
            return None
        return int(int(mantissa) * 10 ** int(power))
    return int(word)
