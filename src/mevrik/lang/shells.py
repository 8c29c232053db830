"""Entities as modules see them: an empty module, the *shell*, with the ports that an entity has with the generics of this instance."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from mevrik.design import nodes as n
from mevrik.design import typed as t
from mevrik.design.record import replace
from mevrik.design.types import Vec
from mevrik.lang.diagnostics import Diagnostics, nearest
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.elaborate.context import Abandon
from mevrik.lang.verilog.elaborate.instances import given_parameters, unit_key
from mevrik.lang.verilog.elaborate.scope import Overrides
from mevrik.lang.verilog.parser import parse
from mevrik.lang.verilog.preprocess import Preprocessor
from mevrik.lang.vhdl import ast as a
from mevrik.lang.vhdl.elaborate.instances import number
from mevrik.lang.vhdl.elaborate.library import Library

if TYPE_CHECKING:
    from mevrik.lang.verilog.elaborate.unit import UnitElaborator

_BITS = {"std_logic", "std_ulogic", "bit"}
_VECTORS = {"std_logic_vector", "std_ulogic_vector", "bit_vector", "unsigned", "signed", "u_unsigned", "u_signed"}
_NUMBERS = {"integer", "natural", "positive"}
_PORTS = {"in": "input wire", "inout": "inout wire"}


def joint_text(name: str, shape: str) -> str:
    """What drives a net for the other side of an inout port: `1` and `0` of VHDL as strong levels, `H` and `L` as a pull."""
    regs = f"reg {shape} \\{name}.strong ; reg {shape} \\{name}.weak ;\n"
    return regs + f"assign \\{name} = \\{name}.strong ; assign (pull1, pull0) \\{name} = \\{name}.weak ;\n"


def module_of(text: str, name: str, diagnostics: Diagnostics) -> ast.Module:
    """A module that we wrote."""
    source = diagnostics.sources.add(f"<{name}>", text)
    return parse(Preprocessor(diagnostics.sources, diagnostics, [], {}).run(source, False), diagnostics, {}).modules[0]


class Shells:
    """Makes the shells, and keeps what each stands for: by the key of its unit the entity and its generics."""

    def __init__(self, units: Library, elaborator: Any, diagnostics: Diagnostics) -> None:
        self.units, self.elaborator, self.diagnostics = units, elaborator, diagnostics
        self.made: dict[str, tuple[a.Entity, list[a.Assoc]]] = {}
        self._modules: dict[str, ast.Module] = {}

    def module_for(self, elab: UnitElaborator, item: ast.Instance) -> tuple[ast.Module, ast.Instance] | None:
        """The shell for an instance, and the instance with the names as the entity writes them; None if there is no such entity."""
        unit = self.units.entities.get(item.module.lower())
        if unit is None:
            return None
        params = self._named(elab, item, unit)
        generics = [self._generic(elab, unit, c) for c in params]
        texts = {text.lower(): text for d in unit.ports for _, text, _ in d.names}
        ports = [replace(c, name=texts.get(c.name.lower(), c.name)) if c.name else c for c in item.ports]
        item = replace(item, params=params, ports=ports)
        words = [f"{c.name}={_words(g.value)}" for c, g in zip(params, generics, strict=True)]
        key = f"{unit.id} {sorted(words)}"
        module = self._modules.get(key)
        if module is None:
            module = module_of(self._text(elab, item, unit, generics), unit.text, self.diagnostics)
            module.pos = unit.pos
            self._modules[key] = module
        self.made[unit_key(module.name, given_parameters(elab, item, module), Overrides())] = (unit, generics)
        return module, item

    # ---- generics ----

    def _named(self, elab: UnitElaborator, item: ast.Instance, unit: a.Entity) -> list[ast.Connection]:
        texts = [text for d in unit.generics if isinstance(d, a.ObjectDecl) for _, text, _ in d.names]
        low = {text.lower(): text for text in texts}
        found: list[ast.Connection] = []
        for index, c in enumerate(item.params):
            if c.name is None and index >= len(texts):
                raise elab.error(
                    c.pos, f"entity '{unit.text}' has {len(texts)} generics; this is value number {index + 1}", "parameter"
                )
            name = texts[index] if c.name is None else low.get(c.name.lower())
            if name is None:
                hint = nearest(c.name or "", texts)
                raise elab.error(c.pos, f"entity '{unit.text}' has no generic '{c.name}'{hint}", "unknown-parameter")
            if c.expr is not None:
                found.append(replace(c, name=name))
        return found

    def _generic(self, elab: UnitElaborator, unit: a.Entity, c: ast.Connection) -> a.Assoc:
        """The value of a parameter as VHDL writes it."""
        assert c.name is not None
        assert c.expr is not None
        value = elab.constant(c.expr, f"the generic '{c.name}'")
        formal = a.Name(c.pos, c.name.lower(), c.name)
        decl = next(d for d in unit.generics if isinstance(d, a.ObjectDecl) and formal.id in {low for low, _, _ in d.names})
        mark = getattr(decl.subtype.mark, "id", "") if decl.subtype is not None else ""
        made = _literal(value, mark, c.pos)
        if made is None:
            message = f"generic '{c.name}' of type {mark or 'unknown'} can't get this value from a module (docs/languages.md)"
            raise elab.error(c.pos, message, "mixed")
        return a.Assoc(c.pos, [formal], made)

    # ---- ports ----

    def _text(self, elab: UnitElaborator, item: ast.Instance, unit: a.Entity, generics: list[a.Assoc]) -> str:
        mark = self.diagnostics.mark()
        ports: list[tuple[str, str, t.Subtype]] = []
        with self.elaborator.careful(), self.elaborator.inside(self.elaborator.logic_view(unit.pos)):
            ports = self.elaborator.interface(unit, generics)
        if self.diagnostics.failed_since(mark):
            raise Abandon
        heads, body = [], ""
        for name, mode, subtype in ports:
            shape = _shape(subtype)
            if shape is None or mode not in ("in", "out", "buffer", "inout"):
                message = f"entity '{unit.text}' can't be instantiated by a module: its port '{name}' is of type {subtype!r}"
                raise elab.error(item.pos, message, "mixed")
            heads.append(f"{_PORTS.get(mode, 'output reg')} {shape} \\{name} ")
            body += joint_text(name, shape) if mode == "inout" else ""
        params = ", ".join(f"parameter {_kind(g.value)}".format(g.choices[0].text) for g in generics)  # type: ignore[attr-defined]
        return f"module {unit.text} {f'#({params})' if params else ''} ({', '.join(heads)});\n{body}endmodule\n"


def _kind(value: a.Expr) -> str:
    """The declaration of a parameter that takes a value; {} stands for its name."""
    match value:
        case a.Text():
            return '{} = ""'
        case a.Number(value=float()):
            return "real {} = 0.0"
    return "{} = 0"


def _shape(s: t.Subtype) -> str | None:
    """The range of a port in Verilog; None if its type has no counterpart."""
    kind = s.type
    if isinstance(kind, t.Integer):
        return "signed [31:0]"
    if isinstance(kind, t.Enum):
        return "" if kind.name in _BITS or kind.name == "boolean" else None
    if isinstance(kind, t.ArrayType) and len(kind.indexes) == 1 and getattr(kind.element.type, "name", "") in _BITS and s.static:
        assert s.bounds is not None
        left, right, _ = s.bounds[0].ints
        return (
            f"{'signed ' if 'signed' in kind.name and 'unsigned' not in kind.name else ''}[{left}:{right}]"
            if s.bounds[0].length
            else None
        )
    return None


def _literal(value: n.Expr, mark: str, pos: int) -> a.Expr | None:
    """A constant of Verilog as a literal of a type of VHDL; None where there is none."""
    if isinstance(value, n.RealConst):
        return a.Number(pos, float(value.value)) if mark == "real" else None
    if isinstance(value, n.TextConst):
        return a.Text(pos, value.value.decode("latin-1")) if mark == "string" else None
    if not isinstance(value, n.Const) or not isinstance(value.type, Vec):
        return None
    width = value.type.width
    bits = ["01ZX"[(value.val >> k & 1) + 2 * (value.unk >> k & 1)] for k in range(width)]
    if mark == "string":
        return a.Text(pos, value.val.to_bytes((width + 7) // 8, "big").lstrip(b"\0").decode("latin-1"))
    if mark in _BITS:
        return a.Name(pos, f"'{bits[0]}'", f"'{bits[0]}'")
    if mark in _VECTORS:
        return a.Text(pos, "".join(reversed(bits)))
    if value.unk:
        return None
    if mark == "boolean":
        word = "true" if value.val else "false"
        return a.Name(pos, word, word)
    if mark == "real":
        made = number(value, pos)
        return a.Number(pos, float(made.value)) if isinstance(made, a.Number) else None
    return number(value, pos) if mark in _NUMBERS else None


def _words(e: a.Expr) -> str:
    """A literal in words that tell it from others."""
    match e:
        case a.Number(value=value):
            return f"{type(value).__name__} {value}"
        case a.Text(value=text):
            return f"str {text}"
        case a.Name(id=name):
            return f"name {name}"
        case a.Unary(a=inner):
            return f"minus {_words(inner)}"
    raise AssertionError(e)
