"""The Verilog syntax tree (IEEE 1364-2005 annex A), one class a construct. `pos` is a source position."""

from __future__ import annotations

from collections.abc import Iterator

from mevrik.design.record import Identity, field


class Node(Identity):
    pos: int


# ---- expressions -------------------------------------------------------------------------------


class Expr(Node):
    pass


class Number(Expr):
    """An integer literal; `width` is None when unsized."""

    width: int | None
    signed: bool
    val: int
    unk: int
    fill: bool = False


class RealNumber(Expr):
    value: float


class TimeLiteral(Expr):
    """A SystemVerilog time literal, in seconds."""

    seconds: float


class StringLiteral(Expr):
    value: bytes


class Name(Expr):
    name: str


class Member(Expr):
    """`base.name`: a step of a hierarchical name, or a structure member."""

    base: Expr
    name: str


class Index(Expr):
    base: Expr
    index: Expr


class PartSelect(Expr):
    """`base[left:right]`, `base[left+:right]` or `base[left-:right]`."""

    base: Expr
    left: Expr
    right: Expr
    mode: str


class Unary(Expr):
    op: str
    operand: Expr


class Binary(Expr):
    op: str
    left: Expr
    right: Expr


class Ternary(Expr):
    cond: Expr
    then: Expr
    other: Expr


class Concat(Expr):
    parts: list[Expr]


class Replicate(Expr):
    count: Expr
    parts: list[Expr]


class Call(Expr):
    """A function or task call; a name starting with `$` is a system one."""

    target: Expr
    args: list[Expr | None]


class Cast(Expr):
    """`type'(x)`, `size'(x)`, `signed'(x)`."""

    target: Expr | DataType
    operand: Expr


class TypeExpr(Expr):
    """A type where an expression is read: an argument of $bits, a key of a pattern, the value of a type parameter."""

    type: DataType


class MinTypMax(Expr):
    low: Expr
    typical: Expr
    high: Expr


class Pattern(Expr):
    """`'{…}`: values by position, or with keys (an index, a member's name, or None for `default`); `count` repeats them
    (IEEE 1800-2017 10.9)."""

    parts: list[tuple[Expr | None, Expr]]
    keyed: bool
    count: Expr | None = None


class New(Expr):
    """`new[count](source)` of a dynamic array (IEEE 1800-2017 7.5.1), `new(args)` or, with `copy`, `new source` of an object."""

    count: Expr
    source: Expr | None
    args: list[Expr | None] = field(default_factory=list)
    copy: bool = False


class With(Expr):
    """`array.method(item) with (body)` (IEEE 1800-2017 7.12)."""

    call: Expr
    body: Expr


class Stream(Expr):
    """`{<<slice{parts}}` or `{>>slice{parts}}` (IEEE 1800-2017 11.4.14); no slice means single bits."""

    left: bool
    slice: DataType | Expr | None
    parts: list[Expr]


class AssignExpr(Expr):
    """`(target = value)` within an expression (IEEE 1800-2017 11.3.6)."""

    target: Expr
    value: Expr
    op: str = ""


class NamedArg(Expr):
    """`.name(value)` in a call (IEEE 1800-2017 13.5.4)."""

    name: str
    value: Expr | None


class EventArg(Expr):
    """`@(event)` as an argument of $past and its like."""

    control: TimingControl


class Increment(Expr):
    """`x++`, `--x`; `before` when the value is that after the step."""

    target: Expr
    op: str
    before: bool = False


# ---- types and declarations --------------------------------------------------------------------


class Range(Node):
    left: Expr
    right: Expr | None  # None: `[n]`, a SystemVerilog size
    key: DataType | None = None  # `[string]`: an associative array with such keys


class EnumItem(Node):
    name: str
    value: Expr | None


class DataType(Node):
    """A data type as written: a keyword or a type name, signing, packed dimensions."""

    keyword: str  # "reg", "integer", "real", …; "" when implicit; "enum"; "struct"; "name"
    signed: bool | None = None
    dims: list[Range] = field(default_factory=list)
    name: str = ""
    items: list[EnumItem] = field(default_factory=list)
    base: DataType | None = None
    members: list[tuple[DataType, Declarator]] = field(default_factory=list)
    args: list[tuple[str | None, DataType | Expr]] = field(default_factory=list)  # of a class with parameters
    known: object = None  # keyword "known": a resolved type; "type": the expression whose type it is
    packed: bool = False
    within: DataType | None = None  # the class with parameters that has it


class Declarator(Node):
    name: str
    dims: list[Range] = field(default_factory=list)
    init: Expr | None = None


class Delay(Node):
    """One to three delays: rise, fall, turn-off."""

    values: list[Expr]


class Item(Node):
    pass


class NetDecl(Item):
    kind: str
    type: DataType
    names: list[Declarator]
    strength: tuple[str, str] | None = None
    delay: Delay | None = None


class VarDecl(Item):
    type: DataType
    names: list[Declarator]
    lifetime: str = ""
    constant: bool = False


class EventDecl(Item):
    names: list[Declarator]


class GenvarDecl(Item):
    names: list[Declarator]


class ElaborationTask(Item):
    """`$fatal`, `$error`, `$warning`, `$info` as a module item: it speaks when the design is put together (IEEE 1800-2017 20.11)."""

    name: str
    args: list[Expr | None]


class ParamDecl(Item):
    local: bool
    type: DataType
    names: list[Declarator]
    is_type: bool = False  # `parameter type T = …`: the values are TypeExpr


class TypedefDecl(Item):
    name: str
    type: DataType
    dims: list[Range]


class Port(Item):
    """An ANSI port or a non-ANSI direction declaration. `kind` is the net kind, "var", or ""."""

    direction: str
    kind: str
    type: DataType
    name: str
    dims: list[Range]
    init: Expr | None = None
    ansi: bool = True
    by_reference: bool = False
    modport: str = ""
    stands_for: Expr | None = None  # `.name(expression)`: what is inside


class PortRef(Item):
    """A non-ANSI port list entry: external name and the expression behind it (None: unconnected)."""

    name: str
    expr: Expr | None


class Function(Item):
    """A function or task; `owner` is the class that declares it `extern`, if it stands outside that class."""

    name: str
    type: DataType | None  # None for a task
    ports: list[Port]
    decls: list[Item]
    body: Stmt
    automatic: bool
    is_task: bool
    end: int = 0
    owner: str = ""


class ContinuousAssign(Item):
    target: Expr
    value: Expr
    delay: Delay | None = None
    strength: tuple[str, str] | None = None


class NetAlias(Item):
    """`alias a = b = c;`: names of the same nets (IEEE 1800-2017 10.11)."""

    nets: list[Expr]


class Always(Item):
    kind: str  # "always", "initial", "always_comb", "always_ff", "always_latch", "final"
    body: Stmt


class Connection(Node):
    """A port or parameter connection; `name` is None when by order, `expr` None when left open."""

    name: str | None
    expr: Expr | None
    wild: bool = False
    short: bool = False


class Instance(Item):
    module: str
    name: str
    params: list[Connection]
    ports: list[Connection]
    dims: list[Range]
    strength: tuple[str, str] | None = None


class Gate(Item):
    kind: str
    name: str
    ports: list[Expr]
    dims: list[Range]
    delay: Delay | None = None
    strength: tuple[str, str] | None = None


class Defparam(Item):
    target: Expr
    value: Expr


class GenBlock(Item):
    label: str
    items: list[Item]


class GenFor(Item):
    var: str
    init: Expr
    cond: Expr
    step: Stmt
    body: GenBlock
    declares: bool = False  # `for (genvar i = …)`


class GenIf(Item):
    cond: Expr
    then: GenBlock | None
    other: GenBlock | None


class GenCase(Item):
    subject: Expr
    arms: list[tuple[list[Expr], GenBlock | None]]  # no labels: default


class ModulePath(Item):
    """`(sources => targets) = delays`, `*>` when full; `ifnone` stands in for the conditions of the others (14.2)."""

    sources: list[Expr]
    targets: list[Expr]
    full: bool
    edge: str
    condition: Expr | None
    ifnone: bool
    delays: list[Expr]


class PulseLimit(Item):
    """`PATHPULSE$source$target = (reject, error)`; no names: all other paths of the module (14.6.1)."""

    source: str
    target: str
    reject: Expr
    error: Expr


class PulseStyle(Item):
    """How pulses of outputs become x. kind: one of pulsestyle_onevent, pulsestyle_ondetect, showcancelled, noshowcancelled (14.6.4)."""

    kind: str
    outputs: list[Expr]


class CheckEvent(Node):
    """An argument of a timing check: an event with an edge and a condition, or a limit or a notifier (15.2)."""

    edge: str
    value: Expr
    condition: Expr | None
    changes: tuple[str, ...] = ()  # of `edge [01, x1]`: from and to


class TimingCheck(Item):
    name: str
    args: list[CheckEvent | None]


class Import(Item):
    """`import package::name`; a name of "*" makes all of it visible (IEEE 1800-2017 26.3)."""

    package: str
    name: str


class ClassParam(Node):
    """A parameter of a class: a type with its default, or a value (IEEE 1800-2017 8.25)."""

    name: str
    default_type: DataType | None
    value: ParamDecl | None


class ClassItem(Node):
    """random: "", "rand" or "randc"; access: "", "local" or "protected"."""

    item: Item
    static: bool
    virtual: bool
    random: str = ""
    pure: bool = False
    access: str = ""


class ClassDecl(Item):
    """A class (IEEE 1800-2017 8.3); `abstract` when declared virtual. `interfaces` are the interface classes that it implements, or
    that it extends if it is one itself (8.26)."""

    name: str
    base: DataType | None
    abstract: bool
    items: list[ClassItem]
    params: list[ClassParam] = field(default_factory=list)
    interfaces: list[DataType] = field(default_factory=list)
    interface: bool = False
    base_arguments: list[Expr | None] = field(default_factory=list)


class LetDecl(Item):
    """`let name(a, b = 1) = expression;` (IEEE 1800-2017 11.12)."""

    name: str
    ports: list[tuple[str, Expr | None]]
    value: Expr


class Bind(Item):
    """`bind target instance;` (IEEE 1800-2017 23.11): instances put into a module, or into one instance of it."""

    target: list[str]
    items: list[Item]
    instances: list[list[str]]  # where the target is a module and these are the ones of its instances that are meant


class Modport(Item):
    """A view of an interface (IEEE 1800-2017 25.5): by name the direction, or "import", "export", "clocking"; `views` are names that
    the modport alone gives to parts of what is in it (25.5.4)."""

    name: str
    ways: dict[str, str]
    views: dict[str, Expr] = {}


class Clocking(Item):
    """A clocking block (IEEE 1800-2017 14.3). Each of `signals`: direction, name, what it stands for, skew (None: the default)."""

    name: str
    event: TimingControl
    default: bool
    signals: list[tuple[str, str, Expr | None, Skew | None]]
    skews: dict[str, Skew]


class Skew(Node):
    """`#delay`, or `#1step` with a delay of None; `edge` of the clock, before the delay."""

    delay: Expr | None
    edge: str = ""


class DefaultClocking(Item):
    name: str


class Prop(Node):
    """A property or sequence (IEEE 1800-2017 clause 16). op: bool (expr), delay (parts: left if any, right; low, high), repeat, goto,
    nonconsecutive (low, high), and, or, intersect, within, throughout (expr), first_match, not, implies, follows (`|=>`), strong
    (an attempt that is under way when the run ends fails), if (expr), clocked (control), disable (expr), every (each match counts), matched (what is done at each
    match of a sequence: assignments to local variables and calls, 16.10, 16.11). A `high` of None is `$`."""

    op: str
    parts: list[Prop] = field(default_factory=list)
    expr: Expr | None = None
    low: Expr | None = None
    high: Expr | None = None
    control: TimingControl | None = None
    steps: list[Stmt] = field(default_factory=list)


class PropertyDecl(Item):
    """A named property or sequence, with its arguments and local variables (16.10)."""

    name: str
    ports: list[tuple[str, Expr | None]]
    body: Prop
    locals: list[VarDecl] = field(default_factory=list)


class DefaultDisable(Item):
    cond: Expr


# ---- statements --------------------------------------------------------------------------------


class Stmt(Node, kw_only=True):
    end: int = 0


class Null(Stmt):
    pass


class Block(Stmt):
    label: str
    decls: list[Item]
    body: list[Stmt]
    fork: str = ""  # "", "join", "join_any", "join_none"


class EventExpr(Node):
    edge: str  # "", "posedge", "negedge", "edge"
    expr: Expr
    guard: Expr | None = None  # behind `iff`


class TimingControl(Node):
    """`#delay`, `@(events)`, `@*`, with an optional repeat count for intra-assignment use."""

    kind: str  # "delay", "event", "star", "cycles"
    delay: Expr | None = None
    events: list[EventExpr] = field(default_factory=list)
    repeat: Expr | None = None


class Assign(Stmt):
    target: Expr
    value: Expr
    nonblocking: bool
    op: str = ""
    control: TimingControl | None = None


class ProcAssign(Stmt):
    """Procedural continuous assignment: assign, deassign, force, release."""

    kind: str
    target: Expr
    value: Expr | None


class If(Stmt):
    cond: Expr
    then: Stmt
    other: Stmt | None
    check: str = ""  # unique, unique0, priority


class Case(Stmt):
    kind: str
    subject: Expr
    arms: list[tuple[list[Expr], Stmt]]  # no labels: default
    check: str = ""


class For(Stmt):
    decls: list[Item]
    init: list[Stmt]
    cond: Expr | None
    step: list[Stmt]
    body: Stmt


class Foreach(Stmt):
    """`foreach (array[i, j])`; a name of None skips a dimension (IEEE 1800-2017 12.7.3)."""

    array: Expr
    names: list[tuple[int, str | None]]
    body: Stmt


class While(Stmt):
    cond: Expr
    body: Stmt
    test_last: bool = False


class Repeat(Stmt):
    count: Expr
    body: Stmt


class Forever(Stmt):
    body: Stmt


class Timed(Stmt):
    control: TimingControl
    body: Stmt


class Wait(Stmt):
    cond: Expr
    body: Stmt


class ForkControl(Stmt):
    """`wait fork` or `disable fork` (IEEE 1800-2017 9.6)."""

    kind: str


class Trigger(Stmt):
    event: Expr
    nonblocking: bool = False
    control: TimingControl | None = None


class Disable(Stmt):
    target: Expr


class CallStmt(Stmt):
    call: Expr
    void: bool = False  # `void'(…)`: a result is left on purpose


class Jump(Stmt):
    """`break`, `continue`, `return`."""

    kind: str
    value: Expr | None = None


class Assert(Stmt):
    """An immediate assertion, or with `prop` a concurrent one."""

    kind: str
    cond: Expr
    then: Stmt | None
    other: Stmt | None
    label: str = ""
    prop: Prop | None = None
    deferred: bool = False


class Cycles(Stmt):
    """`##n statement`: wait for n events of the default clocking (IEEE 1800-2017 14.11)."""

    count: Expr
    body: Stmt


# ---- units -------------------------------------------------------------------------------------


class Timescale(Identity):
    """Unit and precision as powers of ten in seconds (IEEE 1364-2005 19.8)."""

    unit: int
    precision: int


class Module(Node):
    name: str
    params: list[ParamDecl]
    ports: list[Port | PortRef]
    ansi: bool
    items: list[Item]
    end: int = 0
    timescale: Timescale | None = None
    default_nettype: str = "wire"
    cell: bool = False
    sv: bool = False
    interface: bool = False
    program: bool = False
    pull: str = ""  # "pull0" or "pull1": what unconnected inputs get


class UdpRow(Node):
    inputs: list[str]
    state: str | None
    output: str


class Primitive(Node):
    """A user-defined primitive (IEEE 1364-2005 clause 8)."""

    name: str
    output: str
    inputs: list[str]
    sequential: bool
    init: int | None
    rows: list[UdpRow]


class SourceUnit(Identity):
    modules: list[Module] = field(default_factory=list)
    packages: list[Module] = field(default_factory=list)
    primitives: list[Primitive] = field(default_factory=list)
    binds: list[Bind] = field(default_factory=list)
    annotated: list[str] = field(default_factory=list)  # the files that its $sdf_annotate name; "" where that is no literal
    items: list[Item] = field(default_factory=list)


def declared_names(item: Item) -> list[str]:
    """What a declaration declares; "*" for all of a package."""
    match item:
        case Import(name=name):
            return [name]
        case NetDecl(names=names, type=dtype) | VarDecl(names=names, type=dtype) | ParamDecl(names=names, type=dtype):
            return [*(d.name for d in names), *(x.name for x in dtype.items)]
        case EventDecl(names=names) | GenvarDecl(names=names):
            return [d.name for d in names]
        case TypedefDecl(name=name, type=dtype):
            return [name, *(x.name for x in dtype.items)]
        case Port(name=name) | Function(name=name) | ClassDecl(name=name) | Instance(name=name):
            return [name]
        case GenFor(body=GenBlock(label=label)):
            return [label]
    return []


def within(tree: object) -> Iterator[Node]:
    """A node and all that are in it, in the order of the text; lists of them too. However deep they are nested."""
    stack = [tree]
    while stack:
        x = stack.pop()
        if isinstance(x, (list, tuple)):
            stack += reversed(x)
        elif isinstance(x, Node):
            yield x
            stack += [getattr(x, name) for name in reversed(x.__struct_fields__)]
