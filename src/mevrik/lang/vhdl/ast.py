"""The syntax tree of VHDL. `pos` is a position in the source map; identifiers are lower-case."""

from __future__ import annotations

from mevrik.design.record import Identity, field


class Node(Identity):
    pos: int


# ---- expressions (IEEE 1076-2008 clauses 8 and 9) ----


class Expr(Node):
    pass


class Name(Expr):
    """A simple name, a character literal ('x') or, in quotes, an operator."""

    id: str
    text: str = ""


class Number(Expr):
    value: int | float


class Physical(Expr):
    value: int | float
    unit: Name


class Text(Expr):
    """A string literal; a bit string literal stands for one."""

    value: str


class Null(Expr):
    pass


class Open(Expr):
    pass


class Select(Expr):
    """prefix.suffix; the suffix may be "all"."""

    prefix: Expr
    id: str
    text: str = ""


class Assoc(Node):
    """An element of an association list or aggregate: formal (or choices) => value."""

    choices: list[Expr]
    value: Expr


class Apply(Expr):
    """prefix(arguments): a call, an index, a slice or a conversion."""

    prefix: Expr
    args: list[Assoc]


class Attr(Expr):
    """prefix'id or prefix'id(arg)."""

    prefix: Expr
    id: str
    arg: Expr | None
    signature: Signature | None = None


class Qualified(Expr):
    mark: Expr
    value: Expr


class Aggregate(Expr):
    items: list[Assoc]


class Range(Expr):
    left: Expr
    down: bool
    right: Expr


class Others(Expr):
    pass


class Box(Expr):
    """<> in an index definition or a generic map."""


class Unary(Expr):
    op: str
    a: Expr


class Binary(Expr):
    op: str
    a: Expr
    b: Expr


class New(Expr):
    value: Expr  # Qualified or SubtypeInd


class External(Expr):
    """<< class path : subtype >>; each step is a name or a name with an index, "^" or, first, "." (absolute) or "@"."""

    kind: str
    path: list[tuple[str, Expr | None]]
    subtype: SubtypeInd


class SubtypeInd(Expr):
    """A type mark with a resolution function and a constraint: a Range, or for arrays and records a list."""

    mark: Expr
    resolution: Expr | None = None
    constraint: Range | Attr | list[Assoc] | None = None
    more: list[list[Assoc]] = field(default_factory=list)  # constraints of elements: (7 downto 0)(3 downto 0)


class Signature(Node):
    params: list[Expr]
    result: Expr | None


# ---- declarations (clauses 4 to 7) ----


class Decl(Node):
    pass


class EnumDef(Node):
    literals: list[Name]


class RangeDef(Node):
    range: Expr


class PhysicalDef(Node):
    range: Expr
    primary: str
    secondary: list[tuple[str, Expr]]


class ArrayDef(Node):
    indexes: list[Expr]  # discrete ranges; `mark range <>` is a SubtypeInd with constraint Box
    unbounded: bool
    element: SubtypeInd


class RecordDef(Node):
    fields: list[tuple[str, str, SubtypeInd, int]]


class AccessDef(Node):
    subtype: SubtypeInd


class FileDef(Node):
    mark: Expr


class ProtectedDef(Node):
    decls: list[Decl]
    body: bool


TypeDef = EnumDef | RangeDef | PhysicalDef | ArrayDef | RecordDef | AccessDef | FileDef | ProtectedDef


class TypeDecl(Decl):
    id: str
    text: str
    definition: TypeDef | None


class SubtypeDecl(Decl):
    id: str
    text: str
    indication: SubtypeInd


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


class TypeGeneric(Decl):
    id: str
    text: str


class SubprogramGeneric(Decl):
    spec: SubprogramSpec
    default: Expr | None


class PackageGeneric(Decl):
    id: str
    text: str
    name: Expr


class AliasDecl(Decl):
    id: str
    text: str
    subtype: SubtypeInd | None
    name: Expr
    signature: Signature | None


class AttrDecl(Decl):
    id: str
    mark: Expr


class AttrSpec(Decl):
    id: str
    entities: list[tuple[str, Signature | None]]  # names, or "others" or "all"
    kind: str
    value: Expr


class ComponentDecl(Decl):
    id: str
    text: str
    generics: list[Decl]
    ports: list[ObjectDecl]


class SubprogramSpec(Node):
    id: str
    text: str
    function: bool
    impure: bool
    params: list[Decl]
    result: Expr | None
    generics: list[Decl] = field(default_factory=list)
    generic_map: list[Assoc] = field(default_factory=list)


class SubprogramDecl(Decl):
    spec: SubprogramSpec


class SubprogramBody(Decl):
    spec: SubprogramSpec
    decls: list[Decl]
    body: list[Stmt]


class SubprogramInst(Decl):
    id: str
    text: str
    function: bool
    name: Expr
    signature: Signature | None
    generic_map: list[Assoc]


class LibraryClause(Decl):
    names: list[tuple[str, int]]


class UseClause(Decl):
    names: list[Expr]


class ContextRef(Decl):
    names: list[Expr]


class Binding(Node):
    """entity NAME(ARCH) / configuration NAME / open, with maps; `kind` is "" when only maps are given."""

    kind: str
    unit: Expr | None
    arch: str
    generic_map: list[Assoc]
    port_map: list[Assoc]


class ConfigSpec(Decl):
    labels: list[str]  # or ["all"], ["others"]
    component: Expr
    binding: Binding | None
    inner: BlockConfig | None = None


class BlockConfig(Decl):
    """for NAME ... end for: an architecture, block or generate label (with an index)."""

    id: str
    index: Expr | None
    items: list[Decl]


class DisconnectSpec(Decl):
    names: list[Expr]
    mark: Expr
    after: Expr


class Ignored(Decl):
    """A group declaration: parsed, without meaning for a simulation."""


# ---- sequential statements (clause 10) ----


class Stmt(Node):
    end: int
    label: str


class Wave(Node):
    value: Expr | None  # None: null
    after: Expr | None


class Assign(Stmt):
    """`alternatives`: (value, condition or None), the last perhaps unconditional."""

    target: Expr
    alternatives: list[tuple[Expr, Expr | None]]


class SignalAssign(Stmt):
    """Conditional waveforms; waves None: unaffected. `delay`: transport, inertial or force (in, out)."""

    target: Expr
    delay: str
    reject: Expr | None
    alternatives: list[tuple[list[Wave] | None, Expr | None]]
    guarded: bool = False


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


class Release(Stmt):
    target: Expr


class If(Stmt):
    arms: list[tuple[Expr | None, list[Stmt]]]


class Case(Stmt):
    subject: Expr
    matching: bool
    arms: list[tuple[list[Expr], list[Stmt], int]]


class Loop(Stmt):
    """while (cond), for (name, range) or endless."""

    cond: Expr | None
    name: str
    text: str
    range: Expr | None
    body: list[Stmt]


class Leave(Stmt):
    """next or exit."""

    kind: str
    loop: str
    cond: Expr | None


class Return(Stmt):
    value: Expr | None


class Wait(Stmt):
    on: list[Expr]
    until: Expr | None
    time: Expr | None


class Assert(Stmt):
    """An assertion, or with no condition a report."""

    cond: Expr | None
    report: Expr | None
    severity: Expr | None


class Call(Stmt):
    name: Expr


class NullStmt(Stmt):
    pass


# ---- concurrent statements (clause 11) ----


class Concurrent(Node):
    end: int
    label: str


class Process(Concurrent):
    """sensitivity: None (waits by itself), ["all"] as an empty list with `all`, or names. A concurrent assignment, call or assertion
    is one too: `implied`, with the equivalent statement as its body."""

    sensitivity: list[Expr] | None
    all: bool
    decls: list[Decl]
    body: list[Stmt]
    postponed: bool
    implied: bool = False


class Instance(Concurrent):
    """kind: component, entity or configuration."""

    kind: str
    unit: Expr
    arch: str
    generic_map: list[Assoc]
    port_map: list[Assoc]


class Block(Concurrent):
    guard: Expr | None
    generics: list[Decl]
    generic_map: list[Assoc]
    ports: list[ObjectDecl]
    port_map: list[Assoc]
    decls: list[Decl]
    body: list[Concurrent]


class Branch(Node):
    """One branch of an if or case generate."""

    label: str
    cond: Expr | None
    choices: list[Expr]
    decls: list[Decl]
    body: list[Concurrent]


class Generate(Concurrent):
    """kind: for, if, case."""

    kind: str
    name: str
    text: str
    subject: Expr | None  # the range of a for, the expression of a case
    branches: list[Branch]


# ---- design units (clause 13) ----


class Unit(Node):
    end: int
    id: str
    text: str
    context: list[Decl]


class Entity(Unit):
    generics: list[Decl]
    ports: list[ObjectDecl]
    decls: list[Decl]
    body: list[Concurrent]


class Architecture(Unit):
    entity: str
    decls: list[Decl]
    body: list[Concurrent]


class PackageDecl(Unit, Decl):
    generics: list[Decl]
    generic_map: list[Assoc]
    decls: list[Decl]


class PackageBody(Unit, Decl):
    decls: list[Decl]


class PackageInst(Unit, Decl):
    name: Expr
    generic_map: list[Assoc]


class Configuration(Unit):
    entity: Expr
    decls: list[Decl]
    block: BlockConfig


class Context(Unit):
    pass
