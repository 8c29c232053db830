"""The syntax tree of VHDL. `pos` is a position in the source map; identifiers are lower-case."""

from __future__ import annotations

from dataclasses import dataclass, field


@dataclass(eq=False, slots=True)
class Node:
    pos: int


# ---- expressions (IEEE 1076-2008 clauses 8 and 9) ----


@dataclass(eq=False, slots=True)
class Expr(Node):
    pass


@dataclass(eq=False, slots=True)
class Name(Expr):
    """A simple name, a character literal ('x') or, in quotes, an operator."""

    id: str
    text: str = ""


@dataclass(eq=False, slots=True)
class Number(Expr):
    value: int | float


@dataclass(eq=False, slots=True)
class Physical(Expr):
    value: int | float
    unit: Name


@dataclass(eq=False, slots=True)
class Text(Expr):
    """A string literal; a bit string literal stands for one."""

    value: str


@dataclass(eq=False, slots=True)
class Null(Expr):
    pass


@dataclass(eq=False, slots=True)
class Open(Expr):
    pass


@dataclass(eq=False, slots=True)
class Select(Expr):
    """prefix.suffix; the suffix may be "all"."""

    prefix: Expr
    id: str
    text: str = ""


@dataclass(eq=False, slots=True)
class Assoc(Node):
    """An element of an association list or aggregate: formal (or choices) => value."""

    choices: list[Expr]
    value: Expr


@dataclass(eq=False, slots=True)
class Apply(Expr):
    """prefix(arguments): a call, an index, a slice or a conversion."""

    prefix: Expr
    args: list[Assoc]


@dataclass(eq=False, slots=True)
class Attr(Expr):
    """prefix'id or prefix'id(arg)."""

    prefix: Expr
    id: str
    arg: Expr | None
    signature: Signature | None = None


@dataclass(eq=False, slots=True)
class Qualified(Expr):
    mark: Expr
    value: Expr


@dataclass(eq=False, slots=True)
class Aggregate(Expr):
    items: list[Assoc]


@dataclass(eq=False, slots=True)
class Range(Expr):
    left: Expr
    down: bool
    right: Expr


@dataclass(eq=False, slots=True)
class Others(Expr):
    pass


@dataclass(eq=False, slots=True)
class Box(Expr):
    """<> in an index definition or a generic map."""


@dataclass(eq=False, slots=True)
class Unary(Expr):
    op: str
    a: Expr


@dataclass(eq=False, slots=True)
class Binary(Expr):
    op: str
    a: Expr
    b: Expr


@dataclass(eq=False, slots=True)
class New(Expr):
    value: Expr  # Qualified or SubtypeInd


@dataclass(eq=False, slots=True)
class External(Expr):
    """<< class path : subtype >>; each step is a name or a name with an index, "^" or, first, "." (absolute) or "@"."""

    kind: str
    path: list[tuple[str, Expr | None]]
    subtype: SubtypeInd


@dataclass(eq=False, slots=True)
class SubtypeInd(Expr):
    """A type mark with a resolution function and a constraint: a Range, or for arrays and records a list."""

    mark: Expr
    resolution: Expr | None = None
    constraint: Range | Attr | list[Assoc] | None = None
    more: list[list[Assoc]] = field(default_factory=list)  # constraints of elements: (7 downto 0)(3 downto 0)


@dataclass(eq=False, slots=True)
class Signature(Node):
    params: list[Expr]
    result: Expr | None


# ---- declarations (clauses 4 to 7) ----


@dataclass(eq=False, slots=True)
class Decl(Node):
    pass


@dataclass(eq=False, slots=True)
class EnumDef(Node):
    literals: list[Name]


@dataclass(eq=False, slots=True)
class RangeDef(Node):
    range: Expr


@dataclass(eq=False, slots=True)
class PhysicalDef(Node):
    range: Expr
    primary: str
    secondary: list[tuple[str, Expr]]


@dataclass(eq=False, slots=True)
class ArrayDef(Node):
    indexes: list[Expr]  # discrete ranges; `mark range <>` is a SubtypeInd with constraint Box
    unbounded: bool
    element: SubtypeInd


@dataclass(eq=False, slots=True)
class RecordDef(Node):
    fields: list[tuple[str, str, SubtypeInd, int]]


@dataclass(eq=False, slots=True)
class AccessDef(Node):
    subtype: SubtypeInd


@dataclass(eq=False, slots=True)
class FileDef(Node):
    mark: Expr


@dataclass(eq=False, slots=True)
class ProtectedDef(Node):
    decls: list[Decl]
    body: bool


TypeDef = EnumDef | RangeDef | PhysicalDef | ArrayDef | RecordDef | AccessDef | FileDef | ProtectedDef


@dataclass(eq=False, slots=True)
class TypeDecl(Decl):
    id: str
    text: str
    definition: TypeDef | None


@dataclass(eq=False, slots=True)
class SubtypeDecl(Decl):
    id: str
    text: str
    indication: SubtypeInd


@dataclass(eq=False, slots=True)
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


@dataclass(eq=False, slots=True)
class TypeGeneric(Decl):
    id: str
    text: str


@dataclass(eq=False, slots=True)
class SubprogramGeneric(Decl):
    spec: SubprogramSpec
    default: Expr | None


@dataclass(eq=False, slots=True)
class PackageGeneric(Decl):
    id: str
    text: str
    name: Expr


@dataclass(eq=False, slots=True)
class AliasDecl(Decl):
    id: str
    text: str
    subtype: SubtypeInd | None
    name: Expr
    signature: Signature | None


@dataclass(eq=False, slots=True)
class AttrDecl(Decl):
    id: str
    mark: Expr


@dataclass(eq=False, slots=True)
class AttrSpec(Decl):
    id: str
    entities: list[tuple[str, Signature | None]]  # names, or "others" or "all"
    kind: str
    value: Expr


@dataclass(eq=False, slots=True)
class ComponentDecl(Decl):
    id: str
    text: str
    generics: list[Decl]
    ports: list[ObjectDecl]


@dataclass(eq=False, slots=True)
class SubprogramSpec(Node):
    id: str
    text: str
    function: bool
    impure: bool
    params: list[Decl]
    result: Expr | None
    generics: list[Decl] = field(default_factory=list)
    generic_map: list[Assoc] = field(default_factory=list)


@dataclass(eq=False, slots=True)
class SubprogramDecl(Decl):
    spec: SubprogramSpec


@dataclass(eq=False, slots=True)
class SubprogramBody(Decl):
    spec: SubprogramSpec
    decls: list[Decl]
    body: list[Stmt]


@dataclass(eq=False, slots=True)
class SubprogramInst(Decl):
    id: str
    text: str
    function: bool
    name: Expr
    signature: Signature | None
    generic_map: list[Assoc]


@dataclass(eq=False, slots=True)
class LibraryClause(Decl):
    names: list[tuple[str, int]]


@dataclass(eq=False, slots=True)
class UseClause(Decl):
    names: list[Expr]


@dataclass(eq=False, slots=True)
class ContextRef(Decl):
    names: list[Expr]


@dataclass(eq=False, slots=True)
class Binding(Node):
    """entity NAME(ARCH) / configuration NAME / open, with maps; `kind` is "" when only maps are given."""

    kind: str
    unit: Expr | None
    arch: str
    generic_map: list[Assoc]
    port_map: list[Assoc]


@dataclass(eq=False, slots=True)
class ConfigSpec(Decl):
    labels: list[str]  # or ["all"], ["others"]
    component: Expr
    binding: Binding | None
    inner: BlockConfig | None = None


@dataclass(eq=False, slots=True)
class BlockConfig(Decl):
    """for NAME ... end for: an architecture, block or generate label (with an index)."""

    id: str
    index: Expr | None
    items: list[Decl]


@dataclass(eq=False, slots=True)
class DisconnectSpec(Decl):
    names: list[Expr]
    mark: Expr
    after: Expr


@dataclass(eq=False, slots=True)
class Ignored(Decl):
    """A group declaration: parsed, without meaning for a simulation."""


# ---- sequential statements (clause 10) ----


@dataclass(eq=False, slots=True)
class Stmt(Node):
    end: int
    label: str


@dataclass(eq=False, slots=True)
class Wave(Node):
    value: Expr | None  # None: null
    after: Expr | None


@dataclass(eq=False, slots=True)
class Assign(Stmt):
    """`alternatives`: (value, condition or None), the last perhaps unconditional."""

    target: Expr
    alternatives: list[tuple[Expr, Expr | None]]


@dataclass(eq=False, slots=True)
class SignalAssign(Stmt):
    """Conditional waveforms; waves None: unaffected. `delay`: transport, inertial or force (in, out)."""

    target: Expr
    delay: str
    reject: Expr | None
    alternatives: list[tuple[list[Wave] | None, Expr | None]]
    guarded: bool = False


@dataclass(eq=False, slots=True)
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


@dataclass(eq=False, slots=True)
class Release(Stmt):
    target: Expr


@dataclass(eq=False, slots=True)
class If(Stmt):
    arms: list[tuple[Expr | None, list[Stmt]]]


@dataclass(eq=False, slots=True)
class Case(Stmt):
    subject: Expr
    matching: bool
    arms: list[tuple[list[Expr], list[Stmt], int]]


@dataclass(eq=False, slots=True)
class Loop(Stmt):
    """while (cond), for (name, range) or endless."""

    cond: Expr | None
    name: str
    text: str
    range: Expr | None
    body: list[Stmt]


@dataclass(eq=False, slots=True)
class Leave(Stmt):
    """next or exit."""

    kind: str
    loop: str
    cond: Expr | None


@dataclass(eq=False, slots=True)
class Return(Stmt):
    value: Expr | None


@dataclass(eq=False, slots=True)
class Wait(Stmt):
    on: list[Expr]
    until: Expr | None
    time: Expr | None


@dataclass(eq=False, slots=True)
class Assert(Stmt):
    """An assertion, or with no condition a report."""

    cond: Expr | None
    report: Expr | None
    severity: Expr | None


@dataclass(eq=False, slots=True)
class Call(Stmt):
    name: Expr


@dataclass(eq=False, slots=True)
class NullStmt(Stmt):
    pass


# ---- concurrent statements (clause 11) ----


@dataclass(eq=False, slots=True)
class Concurrent(Node):
    end: int
    label: str


@dataclass(eq=False, slots=True)
class Process(Concurrent):
    """sensitivity: None (waits by itself), ["all"] as an empty list with `all`, or names. A concurrent assignment, call or assertion
    is one too: `implied`, with the equivalent statement as its body."""

    sensitivity: list[Expr] | None
    all: bool
    decls: list[Decl]
    body: list[Stmt]
    postponed: bool
    implied: bool = False


@dataclass(eq=False, slots=True)
class Instance(Concurrent):
    """kind: component, entity or configuration."""

    kind: str
    unit: Expr
    arch: str
    generic_map: list[Assoc]
    port_map: list[Assoc]


@dataclass(eq=False, slots=True)
class Block(Concurrent):
    guard: Expr | None
    generics: list[Decl]
    generic_map: list[Assoc]
    ports: list[ObjectDecl]
    port_map: list[Assoc]
    decls: list[Decl]
    body: list[Concurrent]


@dataclass(eq=False, slots=True)
class Branch(Node):
    """One branch of an if or case generate."""

    label: str
    cond: Expr | None
    choices: list[Expr]
    decls: list[Decl]
    body: list[Concurrent]


@dataclass(eq=False, slots=True)
class Generate(Concurrent):
    """kind: for, if, case."""

    kind: str
    name: str
    text: str
    subject: Expr | None  # the range of a for, the expression of a case
    branches: list[Branch]


# ---- design units (clause 13) ----


@dataclass(eq=False, slots=True)
class Unit(Node):
    end: int
    id: str
    text: str
    context: list[Decl]


@dataclass(eq=False, slots=True)
class Entity(Unit):
    generics: list[Decl]
    ports: list[ObjectDecl]
    decls: list[Decl]
    body: list[Concurrent]


@dataclass(eq=False, slots=True)
class Architecture(Unit):
    entity: str
    decls: list[Decl]
    body: list[Concurrent]


@dataclass(eq=False, slots=True)
class PackageDecl(Unit, Decl):
    generics: list[Decl]
    generic_map: list[Assoc]
    decls: list[Decl]


@dataclass(eq=False, slots=True)
class PackageBody(Unit, Decl):
    decls: list[Decl]


@dataclass(eq=False, slots=True)
class PackageInst(Unit, Decl):
    name: Expr
    generic_map: list[Assoc]


@dataclass(eq=False, slots=True)
class Configuration(Unit):
    entity: Expr
    decls: list[Decl]
    block: BlockConfig


@dataclass(eq=False, slots=True)
class Context(Unit):
    pass
