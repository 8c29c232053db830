"""The package std.standard (IEEE 1076-2008 16.3)."""

from __future__ import annotations

from mevrik.design import typed as t
from mevrik.lang.vhdl.elaborate.scope import Attribute, Literal, Scope, TypeName, UnitName

_CONTROL = (
    "nul soh stx etx eot enq ack bel bs ht lf vt ff cr so si dle dc1 dc2 dc3 dc4 nak syn etb can em sub esc fsp gsp rsp usp".split()
)


def _characters() -> list[str]:
    names = list(_CONTROL)
    names += [f"'{chr(code)}'" for code in range(32, 127)]
    names.append("del")
    names += [f"c{code}" for code in range(128, 160)]
    names += [f"'{chr(code)}'" for code in range(160, 256)]
    return names


class Standard:
    """The types that the language itself refers to, and the region that declares them."""

    def __init__(self) -> None:
        self.scope = Scope(None, "standard")
        self.boolean = self._enum("boolean", ["false", "true"])
        self.bit = self._enum("bit", ["'0'", "'1'"])
        self.character = self._enum("character", _characters())
        self.severity = self._enum("severity_level", ["note", "warning", "error", "failure"])
        self.universal_integer = t.Subtype(t.Integer("universal_integer", 0, -(1 << 63), (1 << 63) - 1, True))
        self.universal_real = t.Subtype(t.Floating("universal_real", 0, universal=True))
        self.integer = self._type(t.Subtype(t.Integer("integer"), "integer"))
        self.real = self._type(t.Subtype(t.Floating("real"), "real"))
        units = {
            "fs": 1,
            "ps": 10**3,
            "ns": 10**6,
            "us": 10**9,
            "ms": 10**12,
            "sec": 10**15,
            "min": 60 * 10**15,
            "hr": 3600 * 10**15,
        }
        self.time = self._type(t.Subtype(t.Physical("time", 0, units), "time"))
        for name, factor in units.items():
            self.scope.declare(name, UnitName(self.time, factor), 0)
        self.natural = self._range("natural", self.integer, 0, (1 << 31) - 1)
        self.positive = self._range("positive", self.integer, 1, (1 << 31) - 1)
        self.delay_length = self._range("delay_length", self.time, 0, (1 << 63) - 1)
        self.string = self._array("string", self.positive, self.character)
        self.bit_vector = self._array("bit_vector", self.natural, self.bit)
        self.boolean_vector = self._array("boolean_vector", self.natural, self.boolean)
        self.integer_vector = self._array("integer_vector", self.natural, self.integer)
        self.real_vector = self._array("real_vector", self.natural, self.real)
        self.time_vector = self._array("time_vector", self.natural, self.time)
        self.file_open_kind = self._enum("file_open_kind", ["read_mode", "write_mode", "append_mode"])
        self.file_open_status = self._enum("file_open_status", ["open_ok", "status_error", "name_error", "mode_error"])
        self.scope.declare("foreign", Attribute("foreign", self.string), 0)
        self.now = t.Subprogram("now", True, [], self.delay_length, 0, "now", impure=True, intrinsic="now")
        self.scope.declare("now", self.now, 0)
        for name in ("minimum", "maximum", "to_string", "rising_edge", "falling_edge"):
            # predefined for so many types that calls are looked at one by one (elaborate/calls.py)
            any_type = t.Subtype(t.BaseType("a scalar or an array"))
            params = [t.Object("l", "param", any_type, 0, "l", "in", "constant")]
            self.scope.declare(name, t.Subprogram(name, True, params, self.boolean, 0, name, implicit=True, intrinsic=name), 0)

    def _type(self, subtype: t.Subtype) -> t.Subtype:
        self.scope.declare(subtype.type.name, TypeName(subtype, 0, True, subtype.type.name), 0)
        return subtype

    def _enum(self, name: str, literals: list[str]) -> t.Subtype:
        subtype = self._type(t.Subtype(t.Enum(name, 0, literals), name))
        for value, literal in enumerate(literals):
            self.scope.declare(literal, Literal(subtype, value, literal), 0)
        return subtype

    def _range(self, name: str, base: t.Subtype, low: int, high: int) -> t.Subtype:
        bounds = t.Bounds(t.Const(base, 0, low), t.Const(base, 0, high), False)
        subtype = t.Subtype(base.type, name, bounds)
        self.scope.declare(name, TypeName(subtype, 0, True, name), 0)
        return subtype

    def _array(self, name: str, index: t.Subtype, element: t.Subtype) -> t.Subtype:
        return self._type(t.Subtype(t.ArrayType(name, 0, [index], element), name))
