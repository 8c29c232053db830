"""Compiler directives (IEEE 1364-2005 clause 19, IEEE 1800-2017 clause 22): text in, tokens out.

Macros are expanded on text, as the standard words it, and the result is read again; its tokens keep the position of
the macro's use, which is where a person looks.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from pathlib import Path

from mevrik.design.record import Value
from mevrik.lang import scan
from mevrik.lang.diagnostics import Diagnostics, nearest
from mevrik.lang.scan import Scanner
from mevrik.lang.source import SourceError, SourceMap, SourceText, read_text
from mevrik.lang.verilog.ast import Timescale
from mevrik.lang.verilog.tokens import KIND, KINDS, KINDS_OF, NOTATIONS, Setting, TokenStream

_UNITS = {"s": 0, "ms": -3, "us": -6, "ns": -9, "ps": -12, "fs": -15}
_DEFINE = re.compile(r"[ \t]*(\\\S+|[A-Za-z_][\w$]*)(\([^)]*\))?")
_TIMESCALE = re.compile(r"\s*(1|10|100)\s*(s|ms|us|ns|ps|fs)\s*/\s*(1|10|100)\s*(s|ms|us|ns|ps|fs)(?=\s|$|//|/\*)")
_INCLUDE = re.compile(r'[ \t]*(?:"([^"\n]*)"|<([^>\n]*)>)')
_ALONE = re.compile(r"\s*`\w+\s*$")
_VERSION = re.compile(r'\s*"([^"\n]*)"')
_LINE = re.compile(r'[ \t]*(\d+)[ \t]+"([^"\n]*)"[ \t]+([012])')
_WORD = re.compile(r"[ \t]*(?:([A-Za-z_][\w$]*)|\\(\S+))")
_BODY_PART = re.compile(r'``|`"|`\\`"|"(?:[^"\\\n]|\\.)*"|[A-Za-z_$][\w$]*|[\s\S]')
_STATEMENT_END = re.compile(r"\)*\s*;\s*$")
_BEFORE_VALUES = {
    "=",
    "<=",
    "(",
    "[",
    ",",
    ":",
    "+",
    "-",
    "*",
    "/",
    "%",
    "&",
    "|",
    "^",
    "~",
    "!",
    "&&",
    "||",
    "==",
    "!=",
    "<",
    ">",
    ">=",
    "?",
    "#",
}
_AROUND = {
    "module",
    "macromodule",
    "primitive",
    "endmodule",
    "endprimitive",
    "package",
    "class",
    "function",
    "interface",
    "program",
}
_NET_TYPES = ("wire", "tri", "tri0", "tri1", "wand", "triand", "wor", "trior", "trireg", "uwire", "none")
_NESTING_LIMIT = 200


class Branch(Value):
    """An `ifdef that is open: where it stands, whether one of its parts was taken, whether the text here counts, and whether
    this is the part behind its `else."""

    opened: int
    taken: bool
    active: bool
    ends: bool = False


class Macro(Value):
    name: str
    params: list[tuple[str, str | None]] | None
    body: str


class Preprocessor:
    """Turns source files into one token stream a file, with macros shared in the order of the files."""

    def __init__(
        self,
        sources: SourceMap,
        diagnostics: Diagnostics,
        include_dirs: list[Path],
        defines: dict[str, str],
        reader: Callable[[Path], str] = read_text,
    ) -> None:
        self.sources = sources
        self.diagnostics = diagnostics
        self.include_dirs = include_dirs
        self.reader = reader
        self.macros: dict[str, Macro] = {n: Macro(n, None, v) for n, v in defines.items()}
        self.included: list[Path] = []
        self.missed: list[Path] = []  # where files to include were looked for in vain

    def run(self, source: SourceText, sv: bool) -> TokenStream:
        self.out = TokenStream(sv=sv)
        self.sv = sv
        self.kinds = KINDS[sv]
        self.outer_kinds: list[dict[str, str]] = []
        self.depth = 0
        self._scan(source.text, source.base, None)
        end = source.base + len(source.text)
        self._emit("eof", "", end)
        return self.out

    def _emit(self, kind: str, text: str, pos: int) -> None:
        self.out.kinds.append(kind)
        self.out.texts.append(text)
        self.out.positions.append(pos)

    def _error(self, pos: int, message: str, code: str) -> None:
        self.diagnostics.error(pos, message, code)

    def _scan(self, text: str, base: int, fixed: int | None) -> None:
        """Read `text`; `fixed` is the one position of all its tokens when they come from a macro."""
        scanner = Scanner(text, NOTATIONS[self.sv])
        branches: list[Branch] = []
        why, at = scan.DIRECTIVE, 0
        while why != scan.END:
            why, stop = scanner.run(at, bool(branches) and not branches[-1].active)
            if scanner.codes:
                self._take(scanner, base, fixed)
            pos = base + stop if fixed is None else fixed
            if why == scan.DIRECTIVE:
                at = self._directive(text, text[stop : scanner.end], scanner.end, pos, branches, fixed)
            elif why == scan.BAD:
                at = self._misplaced(text, stop, pos)
            elif why == scan.OPEN:
                self._error(pos, "this comment has no closing '*/'", "comment-open")
                return
        for opened in (b.opened for b in branches):
            self._error(opened, "this `ifdef has no `endif", "ifdef-open")

    def _take(self, scanner: Scanner, base: int, fixed: int | None) -> None:
        out, codes, texts, starts = self.out, scanner.codes, scanner.texts, scanner.starts
        kinds = list(map(self.kinds.get, texts, map(KIND.__getitem__, codes)))
        if scan.ESCAPED in codes:
            for k, code in enumerate(codes):
                if code == scan.ESCAPED:
                    kinds[k], texts[k] = "id", texts[k][1:]
        out.kinds += kinds
        out.texts += texts
        out.positions += [base + start for start in starts] if fixed is None else [fixed] * len(starts)

    def _misplaced(self, text: str, at: int, pos: int) -> int:
        """Report a character that begins nothing. Returns where to go on."""
        if text[at] != '"':
            self._error(pos, f"the character {text[at]!r} has no place here", "character")
            return at + 1
        self._error(pos, "this string has no closing quote before the end of the line", "string-open")
        self._emit("str", '""', pos)
        stop = text.find("\n", at + 1)
        stop = len(text) if stop < 0 else stop
        tail = _STATEMENT_END.search(text, at + 1, stop)  # what ends the statement was surely not meant as text
        return tail.start() if tail else stop

    def _directive(self, text: str, word: str, at: int, pos: int, branches: list[Branch], fixed: int | None) -> int:
        name = word[1:]
        active = not branches or branches[-1].active
        outer = all(b.active for b in branches[:-1])
        if name in ("ifdef", "ifndef"):
            found, at = self._word(text, at, pos, name)
            holds = (found in self.macros) == (name == "ifdef")
            branches.append(Branch(pos, holds or not active, holds and active))
            return at
        if name in ("elsif", "else", "endif"):
            found = ""
            if name == "elsif":
                found, at = self._word(text, at, pos, name)
            if not branches:
                self._error(pos, f"`{name} without an `ifdef before it", "ifdef-missing")
            elif name == "endif":
                branches.pop()
            else:
                branch = branches[-1]
                if branch.ends:
                    self._error(pos, f"`{name} after the `else of the same `ifdef; an `endif is missing before it", "ifdef-else")
                holds = not branch.taken and (name == "else" or found in self.macros)
                branches[-1] = Branch(branch.opened, branch.taken or holds, holds and outer, name == "else")
            return at
        if not active:
            return at
        handler = getattr(self, f"_do_{name}", None)
        if handler is not None:
            return int(handler(text, at, pos))
        return self._expand(text, name, at, pos)

    def _word(self, text: str, at: int, pos: int, directive: str) -> tuple[str, int]:
        match = _WORD.match(text, at)
        if match is None:
            self._error(pos, f"`{directive} needs the name of a macro", "directive")
            return "", at
        return match[1] or match[2], match.end()

    # ---- directives, one method each ----

    def _do_define(self, text: str, at: int, pos: int) -> int:
        head = _DEFINE.match(text, at)
        if head is None:
            self._error(pos, "`define needs a name", "directive")
            return _line_end(text, at)
        name = head[1]
        params: list[tuple[str, str | None]] | None = None
        start = head.end(1)
        if start < len(text) and text[start] == "(":
            close = _matching(text, start)
            inside = text[start + 1 : close]
            params = []
            for piece in _split_args(inside):
                formal, eq, default = piece.partition("=")
                params.append((formal.strip(), default.strip() if eq else None))
            if len(params) == 1 and not params[0][0]:
                params = []
            start = close + 1
        body: list[str] = []
        while True:
            stop = text.find("\n", start)
            stop = len(text) if stop < 0 else stop
            line = text[start:stop].rstrip("\r")
            if line.endswith("\\"):
                body.append(line[:-1])
                start = stop + 1
                if start >= len(text):
                    break
            else:
                body.append(line)
                break
        self.macros[name] = Macro(name, params, _without_comments("\n".join(body)).strip())
        return stop

    def _do_undef(self, text: str, at: int, pos: int) -> int:
        name, at = self._word(text, at, pos, "undef")
        self.macros.pop(name, None)
        return at

    def _do_undefineall(self, text: str, at: int, pos: int) -> int:
        self.macros.clear()
        return at

    def _do_timescale(self, text: str, at: int, pos: int) -> int:
        match = _TIMESCALE.match(text, at)
        if match is None:
            self._error(pos, "`timescale needs a unit and a precision, such as 1ns/1ps", "timescale")
            return _line_end(text, at)
        unit = _UNITS[match[2]] + len(match[1]) - 1
        precision = _UNITS[match[4]] + len(match[3]) - 1
        if precision > unit:
            self._error(pos, "the precision of a `timescale can't be coarser than its unit", "timescale")
            precision = unit
        self._set("timescale", Timescale(unit, precision))
        return match.end()

    def _set(self, name: str, value: object) -> None:
        self.out.settings.append(Setting(len(self.out.kinds), name, value))

    def _do_default_nettype(self, text: str, at: int, pos: int) -> int:
        kind, at = self._word(text, at, pos, "default_nettype")
        if kind not in _NET_TYPES:
            hint = nearest(kind, _NET_TYPES)
            self._error(pos, f"`default_nettype is followed by a type of nets or by none{hint} (19.2)", "directive")
            kind = "wire"
        self._set("default_nettype", kind)
        return at

    def _do_celldefine(self, text: str, at: int, pos: int) -> int:
        self._set("cell", True)
        return at

    def _do_endcelldefine(self, text: str, at: int, pos: int) -> int:
        self._set("cell", False)
        return at

    def _do_resetall(self, text: str, at: int, pos: int) -> int:
        for name, value in (("timescale", None), ("default_nettype", "wire"), ("cell", False), ("unconnected_drive", "")):
            self._set(name, value)
        return at

    def _do_unconnected_drive(self, text: str, at: int, pos: int) -> int:
        kind, at = self._word(text, at, pos, "unconnected_drive")
        if kind not in ("pull0", "pull1"):
            self._error(pos, "`unconnected_drive is followed by pull0 or pull1 (19.9)", "directive")
            kind = ""
        self._set("unconnected_drive", kind)
        return at

    def _do_nounconnected_drive(self, text: str, at: int, pos: int) -> int:
        self._set("unconnected_drive", "")
        return at

    def _do_line(self, text: str, at: int, pos: int) -> int:
        match = _LINE.match(text, at)
        if match is None:
            self._error(pos, '`line needs a number, a file name in quotes and a level, such as `line 1 "a.v" 0', "directive")
            return _line_end(text, at)
        self.sources.renumber(pos, match[2], int(match[1]))
        return match.end()

    def _skip_line(self, text: str, at: int, pos: int) -> int:
        return _line_end(text, at)

    _do_pragma = _skip_line
    _do_delay_mode_path = _skip_line  # as it is without

    def _not_followed(self, text: str, at: int, pos: int) -> int:
        """Directives of the informative annex D of IEEE 1364-2005 that would change results."""
        name = text[text.rfind("`", 0, at) + 1 : at]
        self.diagnostics.warning(pos, f"`{name} is not followed: delays and charges are as the modules say (annex D)", "directive")
        return _line_end(text, at)

    _do_default_decay_time = _not_followed
    _do_default_trireg_strength = _not_followed
    _do_delay_mode_distributed = _not_followed
    _do_delay_mode_unit = _not_followed
    _do_delay_mode_zero = _not_followed

    def _do_begin_keywords(self, text: str, at: int, pos: int) -> int:
        """From here on the reserved words are those of another version (22.14)."""
        match = _VERSION.match(text, at)
        if match is None or match[1] not in KINDS_OF:
            known = ", ".join(f'"{v}"' for v in KINDS_OF)
            self._error(pos, f"`begin_keywords needs one of the versions {known}", "directive")
            self.outer_kinds.append(self.kinds)  # its `end_keywords is no second mistake
            return _line_end(text, at)
        self.outer_kinds.append(self.kinds)
        self.kinds = KINDS_OF[match[1]]
        return match.end()

    def _do_end_keywords(self, text: str, at: int, pos: int) -> int:
        if self.outer_kinds:
            self.kinds = self.outer_kinds.pop()
        else:
            self._error(pos, "this `end_keywords has no `begin_keywords before it", "directive")
        return at

    def _do___FILE__(self, text: str, at: int, pos: int) -> int:
        self._emit("str", f'"{self.sources.place(pos).file}"', pos)
        return at

    def _do___LINE__(self, text: str, at: int, pos: int) -> int:
        self._emit("num", str(self.sources.place(pos).line), pos)
        return at

    def _do_include(self, text: str, at: int, pos: int) -> int:
        match = _INCLUDE.match(text, at)
        if match is None:
            self._error(pos, '`include needs a file name in quotes, such as `include "defs.vh"', "include")
            return _line_end(text, at)
        name = match[1] or match[2]
        here = self.sources.owner(pos)
        folders = ([Path(here.name).parent] if here else []) + self.include_dirs
        path = None
        for folder in folders:
            if (folder / name).is_file():
                path = folder / name
                break
            self.missed.append(folder / name)
        if path is None:
            known = [p.name for f in folders if f.is_dir() for p in f.iterdir() if p.is_file()]
            looked = ", ".join(str(f) for f in folders)
            message = f"`include: there is no file '{name}' in {looked}{nearest(name, known)}; -I adds a folder"
            self._error(pos, message, "include")
            return match.end()
        if self.depth > _NESTING_LIMIT:
            self._error(pos, f"`include of '{name}' goes round in a circle", "include")
            return match.end()
        try:
            inner = self.sources.add(str(path), self.reader(path))
        except SourceError as error:
            self._error(pos, str(error), "include")
            return match.end()
        self.included.append(path)
        self.depth += 1
        self._scan(inner.text, inner.base, None)
        self.depth -= 1
        return match.end()

    # ---- macros ----

    def _stands_alone(self, text: str, at: int) -> bool:
        """Whether what ends here has a line for itself, outside all modules, where libraries put directives for other tools."""
        start = text.rfind("\n", 0, at) + 1
        if _ALONE.match(text[start : _line_end(text, at)]) is None:
            return False
        last = next((k for k in reversed(self.out.kinds) if k in _AROUND), "endmodule")
        return last in ("endmodule", "endprimitive")

    def _stand_in(self, text: str, at: int, pos: int) -> int:
        """In the place of an unknown macro, so that what is around it can be read: a number where a value is expected."""
        self.out.holes.append(len(self.out.kinds))
        if self.out.kinds and self.out.kinds[-1] in _BEFORE_VALUES:
            self._emit("num", "1", pos)
        if text.startswith("(", at):  # its arguments
            at = min(_matching(text, at) + 1, len(text))
        return at

    def _expand(self, text: str, name: str, at: int, pos: int) -> int:
        macro = self.macros.get(name)
        if macro is None and self._stands_alone(text, at):
            self.diagnostics.warning(
                pos, f"`{name} is no directive of the standard and no macro: it is ignored", "directive-unknown"
            )
            return _line_end(text, at)
        if macro is None:
            message = f"the macro `{name} is not defined{nearest(name, self.macros)}"
            file = self.diagnostics.sources.place(pos).file
            self.diagnostics.error(pos, message, "macro-unknown", once=f"{file}`{name}")
            return self._stand_in(text, at, pos)
        body = macro.body
        if macro.params is not None:
            start = at
            while start < len(text) and text[start].isspace():
                start += 1
            if start >= len(text) or text[start] != "(":
                self._error(pos, f"the macro `{name} needs its {len(macro.params)} arguments in parentheses", "macro-args")
                return self._stand_in(text, at, pos)
            close = _matching(text, start)
            args = [a.strip() for a in _split_args(text[start + 1 : close])]
            at = close + 1
            if not macro.params and args == [""]:
                args = []
            if len(args) > len(macro.params):
                self._error(pos, f"`{name} takes {len(macro.params)} arguments, {len(args)} are given", "macro-args")
                return self._stand_in(text, at, pos)
            values: dict[str, str] = {}
            for number, (formal, default) in enumerate(macro.params):
                given = args[number] if number < len(args) else None
                if given is None or (given == "" and default is not None):
                    if default is None and given is None:
                        message = f"`{name} takes {len(macro.params)} arguments, {len(args)} are given"
                        self._error(pos, message, "macro-args")
                        return self._stand_in(text, at, pos)
                    given = default or ""
                values[formal] = given
            body = _substitute(body, values)
        else:
            body = _substitute(body, {})
        if self.depth > _NESTING_LIMIT:
            self._error(pos, f"the macro `{name} goes round in a circle", "macro-circle")
            return at
        self.depth += 1
        self._scan(body, 0, pos)
        self.depth -= 1
        return at


def _line_end(text: str, at: int) -> int:
    stop = text.find("\n", at)
    return len(text) if stop < 0 else stop


def _substitute(body: str, values: dict[str, str]) -> str:
    """Formal names replaced outside strings; `` joins, `" makes a quote (IEEE 1800-2017 22.5.1)."""
    out: list[str] = []
    for match in _BODY_PART.finditer(body):
        part = match.group()
        if part == "``":
            continue
        if part == '`"':
            out.append('"')
        elif part == '`\\`"':
            out.append('\\"')
        else:
            out.append(values.get(part, part))
    return "".join(out)


def _matching(text: str, start: int) -> int:
    """The index of the bracket that closes the one at `start`, or the end of the text."""
    depth = 0
    at = start
    while at < len(text):
        c = text[at]
        if c == '"':
            at += 1
            while at < len(text) and text[at] != '"':
                at += 2 if text[at] == "\\" else 1
        elif c in "([{":
            depth += 1
        elif c in ")]}":
            depth -= 1
            if depth == 0:
                return at
        at += 1
    return len(text)


def _split_args(text: str) -> list[str]:
    args: list[str] = []
    start = at = 0
    while at < len(text):
        c = text[at]
        if c in "([{":
            at = _matching(text, at)
        elif c == '"':
            at += 1
            while at < len(text) and text[at] != '"':
                at += 2 if text[at] == "\\" else 1
        elif c == ",":
            args.append(text[start:at])
            start = at + 1
        at += 1
    args.append(text[start:])
    return args


def _without_comments(body: str) -> str:
    return re.sub(r'("(?:[^"\\\n]|\\.)*")|//[^\n]*|/\*[\s\S]*?\*/', lambda m: m[1] or " ", body)
