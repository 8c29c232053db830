"""Tokens of Verilog (IEEE 1364-2005 clause 3) and SystemVerilog (IEEE 1800-2017 clause 5).

A token is three parallel entries, kind, text and position, which is what makes the parser fast: the kind of a keyword
or an operator is its own text, so that a parser compares strings that are interned.
"""

from __future__ import annotations

import sys

from mevrik.design.record import Value, field
from mevrik.lang import scan
from mevrik.lang.scan import Notation

KEYWORDS_2005 = """
always and assign automatic begin buf bufif0 bufif1 case casex casez cell cmos config deassign default defparam design
disable edge else end endcase endconfig endfunction endgenerate endmodule endprimitive endspecify endtable endtask event
for force forever fork function generate genvar highz0 highz1 if ifnone incdir include initial inout input instance
integer join large liblist library localparam macromodule medium module nand negedge nmos nor noshowcancelled not notif0
notif1 or output parameter pmos posedge primitive pull0 pull1 pulldown pullup pulsestyle_onevent pulsestyle_ondetect
rcmos real realtime reg release repeat rnmos rpmos rtran rtranif0 rtranif1 scalared showcancelled signed small specify
specparam strong0 strong1 supply0 supply1 table task time tran tranif0 tranif1 tri tri0 tri1 triand trior trireg
unsigned use uwire vectored wait wand weak0 weak1 while wire wor xnor xor
""".split()

KEYWORDS_SV = """
accept_on alias always_comb always_ff always_latch assert assume before bind bins binsof bit break byte chandle checker
class clocking const constraint context continue cover covergroup coverpoint cross dist do endchecker endclass
endclocking endgroup endinterface endpackage endprogram endproperty endsequence enum eventually expect export extends
extern final first_match foreach forkjoin global iff ignore_bins illegal_bins implements implies import inside int
interconnect interface intersect join_any join_none let local logic longint matches modport nettype new nexttime null
package packed priority program property protected pure rand randc randcase randsequence ref reject_on restrict return
s_always s_eventually s_nexttime s_until s_until_with sequence shortint shortreal soft solve static string strong struct
super sync_accept_on sync_reject_on tagged this throughout timeprecision timeunit type typedef union unique unique0
until until_with untyped var virtual void wait_order weak wildcard with within
""".split()

_OPERATORS = [
    "<<<=", ">>>=", "<<<", ">>>", "===", "!==", "==?", "!=?", "<<=", ">>=", "<->", "|->", "|=>", "&&&", "->>",
    "**", "<<", ">>", "<=", ">=", "==", "!=", "&&", "||", "~&", "~|", "~^", "^~", "+:", "-:", "->", "=>", "*>",
    "++", "--", "+=", "-=", "*=", "/=", "%=", "&=", "|=", "^=", "::", "'{", "##", "(*", "*)", ".*",
]  # fmt: skip
_MARKS = "-+*/%&|^~!<>=?:;,.()[]{}@#$'\\"
_ALWAYS_2005 = {
    "<<<", ">>>", "===", "!==", "**", "<<", ">>", "<=", ">=", "==", "!=", "&&", "||", "~&", "~|", "~^", "^~",
    "+:", "-:", "->", "=>", "*>", "(*", "*)", "&&&",
}  # fmt: skip


KEYWORDS = {
    False: {w: sys.intern(w) for w in KEYWORDS_2005},
    True: {w: sys.intern(w) for w in KEYWORDS_2005 + KEYWORDS_SV},
}
_SINCE_2001 = set(
    """automatic cell config design endconfig endgenerate generate genvar incdir include instance liblist library localparam
    noshowcancelled pulsestyle_ondetect pulsestyle_onevent showcancelled signed unsigned use""".split()
)
_CONFIGURATION = {"cell", "config", "design", "endconfig", "incdir", "include", "instance", "liblist", "library", "use"}


_OPERATOR_KINDS = {o: sys.intern(o) for o in [*_OPERATORS, *_MARKS]}
# the kinds of tokens that have one of their own, by their text
KINDS = {sv: _OPERATOR_KINDS | KEYWORDS[sv] for sv in (False, True)}


def _without(words: set[str]) -> dict[str, str]:
    return {w: k for w, k in KINDS[False].items() if w not in words}


# the same in each version that `begin_keywords names (IEEE 1800-2017 22.14)
KINDS_OF = {
    "1364-1995": _without(_SINCE_2001 | {"uwire"}),
    "1364-2001": _without({"uwire"}),
    "1364-2001-noconfig": _without(_CONFIGURATION | {"uwire"}),
    "1364-2005": KINDS[False],
    "1800-2005": KINDS[True],
    "1800-2009": KINDS[True],
    "1800-2012": KINDS[True],
    "1800-2017": KINDS[True],
}
# the kinds of all others, by what the scanner takes them for
KIND = {
    scan.IDENTIFIER: "id", scan.ESCAPED: "id", scan.NUMBER: "num", scan.TIME: "time", scan.STRING: "str", scan.SYSTEM: "sys",
    scan.OPERATOR: "",
}  # fmt: skip
NOTATIONS = {
    sv: Notation("verilog", [o for o in _OPERATORS if sv or o in _ALWAYS_2005] + list(_MARKS), extended=sv) for sv in (False, True)
}


class Setting(Value):
    """A compiler directive that holds from a token on."""

    at: int
    name: str
    value: object


class TokenStream(Value):
    kinds: list[str] = field(default_factory=list)
    texts: list[str] = field(default_factory=list)
    positions: list[int] = field(default_factory=list)
    holes: list[int] = field(default_factory=list)  # where macros stood that nobody knows
    settings: list[Setting] = field(default_factory=list)
    sv: bool = False
