"""The syntax tree of VHDL. `pos` is a position in the source map; identifiers are lower-case."""

from __future__ import annotations

from dataclasses import field

from mevrik.design.record import node


@node
class Node:
    pos: int


# ---- expressions (IEEE 1076-2008 clauses 8 and 9) ----


@node
class Expr(Node):
    pass


@node
class Name(Expr):
    """A simple name, a character literal ('x') or, in quotes, an operator."""

    id: str
    text: str = ""


@node
class Number(Expr):
    value: int | float


@node
class Physical(Expr):
    value: int | float
    unit: Name


@node
class Text(Expr):
    """A string literal; a bit string literal stands for one."""

    value: str


@node
class Null(Expr):
    pass


@node
class Open(Expr):
    pass


@node
class Select(Expr):
    """prefix.suffix; the suffix may be "all"."""

    prefix: Expr
    id: str
    text: str = ""


@node
class Assoc(Node):
    """An element of an association list or aggregate: formal (or choices) => value."""

    choices: list[Expr]
    value: Expr


@node
class Apply(Expr):
    """prefix(arguments): a call, an index, a slice or a conversion."""

    prefix: Expr
    args: list[Assoc]


@node
class Attr(Expr):
    """prefix'id or prefix'id(arg)."""

    prefix: Expr
    id: str
    arg: Expr | None
    signature: Signature | None = None


@node
class Qualified(Expr):
    mark: Expr
    value: Expr


@node
class Aggregate(Expr):
    items: list[Assoc]


@node
class Range(Expr):
    left: Expr
    down: bool
    right: Expr


@node
class Others(Expr):
    pass


@node
class Box(Expr):
    """<> in an index definition or a generic map."""


@node
class Unary(Expr):
    op: str
    a: Expr


@node
class Binary(Expr):
    op: str
    a: Expr
    b: Expr


@node
class New(Expr):
    value: Expr  # Qualified or SubtypeInd


@node
class External(Expr):
    """<< class path : subtype >>; each step is a name or a name with an index, "^" or, first, "." (absolute) or "@"."""

    kind: str
    path: list[tuple[str, Expr | None]]
    subtype: SubtypeInd


@node
class SubtypeInd(Expr):
    """A type mark with a resolution function and a constraint: a Range, or for arrays and records a list."""

    mark: Expr
    resolution: Expr | None = None
    constraint: Range | Attr | list[Assoc] | None = None
    more: list[list[Assoc]] = field(default_factory=list)  # constraints of elements: (7 downto 0)(3 downto 0)


@node
class Signature(Node):
    params: list[Expr]
    result: Expr | None


# ---- declarations (clauses 4 to 7) ----


@node
class Decl(Node):
    pass


@node
class EnumDef(Node):
    literals: list[Name]


@node
class RangeDef(Node):
    range: Expr


@node
class PhysicalDef(Node):
    range: Expr
    primary: str
    secondary: list[tuple[str, Expr]]


@node
class ArrayDef(Node):
    indexes: list[Expr]  # discrete ranges; `mark range <>` is a SubtypeInd with constraint Box
    unbounded: bool
    element: SubtypeInd


@node
class RecordDef(Node):
    fields: list[tuple[str, str, SubtypeInd, int]]


@node
class AccessDef(Node):
    subtype: SubtypeInd


@node
class FileDef(Node):
    mark: Expr


@node
class ProtectedDef(Node):
    decls: list[Decl]
    body: bool


TypeDef = EnumDef | RangeDef | PhysicalDef | ArrayDef | RecordDef | AccessDef | FileDef | ProtectedDef


@node
class TypeDecl(Decl):
    id: str
    text: str
    definition: TypeDef | None


@node
class SubtypeDecl(Decl):
    id: str
    text: str
    indication: SubtypeInd


@node
class ObjectDecl(Decl):
    """kind: constant, signal, variable, shared, file. In an interface list also `mode`."""

    kind: str
    names: list[tuple[str, str, int]]
    subtype: SubtypeInd | None
    init: Expr | None
    mode: str = ""
    bus: str = ""  # "bus" or "register"
    open_kind: Expr | None = None
    explicit: bool = True  # the class was written


@node
class TypeGeneric(Decl):
    id: str
    text: str


@node
class SubprogramGeneric(Decl):
    spec: SubprogramSpec
    default: Expr | None


@node
class PackageGeneric(Decl):
    id: str
    text: str
    name: Expr


@node
class AliasDecl(Decl):
    id: str
    text: str
    subtype: SubtypeInd | None
    name: Expr
    signature: Signature | None


@node
class AttrDecl(Decl):
    id: str
    mark: Expr


@node
class AttrSpec(Decl):
    id: str
    entities: list[tuple[str, Signature | None]]  # names, or "others" or "all"
    kind: str
    value: Expr


@node
class ComponentDecl(Decl):
    id: str
    text: str
    generics: list[Decl]
    ports: list[ObjectDecl]


@node
class SubprogramSpec(Node):
    id: str
    text: str
    function: bool
    impure: bool
    params: list[Decl]
    result: Expr | None
    generics: list[Decl] = field(default_factory=list)
    generic_map: list[Assoc] = field(default_factory=list)


@node
class SubprogramDecl(Decl):
    spec: SubprogramSpec


@node
class SubprogramBody(Decl):
    spec: SubprogramSpec
    decls: list[Decl]
    body: list[Stmt]


@node
class SubprogramInst(Decl):
    id: str
    text: str
    function: bool
    name: Expr
    signature: Signature | None
    generic_map: list[Assoc]


@node
class LibraryClause(Decl):
    names: list[tuple[str, int]]


@node
class UseClause(Decl):
    names: list[Expr]


@node
class ContextRef(Decl):
    names: list[Expr]


@node
class Binding(Node):
    """entity NAME(ARCH) / configuration NAME / open, with maps; `kind` is "" when only maps are given."""

    kind: str
    unit: Expr | None
    arch: str
    generic_map: list[Assoc]
    port_map: list[Assoc]


@node
class ConfigSpec(Decl):
    labels: list[str]  # or ["all"], ["others"]
    component: Expr
    binding: Binding | None
    inner: BlockConfig | None = None


@node
class BlockConfig(Decl):
    """for NAME ... end for: an architecture, block or generate label (with an index)."""

    id: str
    index: Expr | None
    items: list[Decl]


@node
class DisconnectSpec(Decl):
    names: list[Expr]
    mark: Expr
    after: Expr


@node
class Ignored(Decl):
    """A group declaration: parsed, without meaning for a simulation."""


# ---- sequential statements (clause 10) ----


@node
class Stmt(Node):
    end: int
    label: str


@node
class Wave(Node):
    value: Expr | None  # None: null
    after: Expr | None


@node
class Assign(Stmt):
    """`alternatives`: (value, condition or None), the last perhaps unconditional."""

    target: Expr
    alternatives: list[tuple[Expr, Expr | None]]


@node
class SignalAssign(Stmt):
    """Conditional waveforms; waves None: unaffected. `delay`: transport, inertial or force (in, out)."""

    target: Expr
    delay: str
    reject: Expr | None
    alternatives: list[tuple[list[Wave] | None, Expr | None]]
    guarded: bool = False


@node
class SelectedAssign(Stmt):
    """with subject select target <= (or :=) waves when choices, ...; `variable`: the values are the waves' first values."""

    subject: Expr
    matching: bool
    target: Expr
    variable: bool
    delay: str
    reject: Expr | None
    alternatives: list[tuple[list[Wave] | None, list[Expr]]]
    guarded: bool = False


@node
class Release(Stmt):
    target: Expr


@node
class If(Stmt):
    arms: list[tuple[Expr | None, list[Stmt]]]


@node
class Case(Stmt):
    subject: Expr
    matching: bool
    arms: list[tuple[list[Expr], list[Stmt], int]]


@node
class Loop(Stmt):
    """while (cond), for (name, range) or endless."""

    cond: Expr | None
    name: str
    text: str
    range: Expr | None
    body: list[Stmt]


@node
class Leave(Stmt):
    """next or exit."""

    kind: str
    loop: str
    cond: Expr | None


@node
class Return(Stmt):
    value: Expr | None


@node
class Wait(Stmt):
    on: list[Expr]
    until: Expr | None
    time: Expr | None


@node
class Assert(Stmt):
    """An assertion, or with no condition a report."""

    cond: Expr | None
    report: Expr | None
    severity: Expr | None


@node
class Call(Stmt):
    name: Expr


@node
class NullStmt(Stmt):
    pass


# ---- concurrent statements (clause 11) ----


@node
class Concurrent(Node):
    end: int
    label: str


@node
class Process(Concurrent):
    """sensitivity: None (waits by itself), ["all"] as an empty list with `all`, or names. A concurrent assignment, call or assertion
    is one too: `implied`, with the equivalent statement as its body."""

    sensitivity: list[Expr] | None
    all: bool
    decls: list[Decl]
    body: list[Stmt]
    postponed: bool
    implied: bool = False


@node
class Instance(Concurrent):
    """kind: component, entity or configuration."""

    kind: str
    unit: Expr
    arch: str
    generic_map: list[Assoc]
    port_map: list[Assoc]


@node
class Block(Concurrent):
    guard: Expr | None
    generics: list[Decl]
    generic_map: list[Assoc]
    ports: list[ObjectDecl]
    port_map: list[Assoc]
    decls: list[Decl]
    body: list[Concurrent]


@node
class Branch(Node):
    """One branch of an if or case generate."""

    label: str
    cond: Expr | None
    choices: list[Expr]
    decls: list[Decl]
    body: list[Concurrent]


@node
class Generate(Concurrent):
    """kind: for, if, case."""

    kind: str
    name: str
    text: str
    subject: Expr | None  # the range of a for, the expression of a case
    branches: list[Branch]


# ---- design units (clause 13) ----


@node
class Unit(Node):
    end: int
    id: str
    text: str
    context: list[Decl]


@node
class Entity(Unit):
    generics: list[Decl]
    ports: list[ObjectDecl]
    decls: list[Decl]
    body: list[Concurrent]


@node
class Architecture(Unit):
    entity: str
    decls: list[Decl]
    body: list[Concurrent]


@node
class PackageDecl(Unit, Decl):
    generics: list[Decl]
    generic_map: list[Assoc]
    decls: list[Decl]


@node
class PackageBody(Unit, Decl):
    decls: list[Decl]


@node
class PackageInst(Unit, Decl):
    name: Expr
    generic_map: list[Assoc]


@node
class Configuration(Unit):
    entity: Expr
    decls: list[Decl]
    block: BlockConfig


@node
class Context(Unit):
    pass
