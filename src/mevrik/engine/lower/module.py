"""A whole module of generated code: one function a process, subprogram, fork branch or postponed print."""

from __future__ import annotations

from mevrik.design import nodes as n
from mevrik.design import walk
from mevrik.design.record import Frozen, replace
from mevrik.design.types import Array, Bag, Real, Vec, width_of
from mevrik.design.unit import Design, Process, Signal, Subprogram, Unit
from mevrik.engine.layout import Instance, Layout, Slot, plane_bytes, planes_of
from mevrik.engine.lower.commit import apply_function, apply_name, commit_function, commit_name, commit_write, has_apply, has_commit
from mevrik.engine.lower.contents import waited_in
from mevrik.engine.lower.edges import edge_functions
from mevrik.engine.lower.function import Function, layout_of
from mevrik.engine.lower.prelude import prelude
from mevrik.engine.lower.statements import DISABLED, StatementLowerer, static_sense
from mevrik.engine.lower.waits import EDGES

_LATE = ("$strobe", "$monitor", "$fstrobe", "$fmonitor")


class Code(Frozen, frozen=True):
    """The text, the entry points by number, and for each process (by `Process.number`) its entry, frame size and form."""

    text: str
    entries: list[str]
    process_entry: dict[tuple[Unit, Process], int]
    frame_size: dict[tuple[Unit, Process], int]
    static: set[Process]
    commits: dict[int, str]  # signal number → the function that wakes its fan-out
    applies: dict[int, str]  # signal number → the function that writes it for a nonblocking assignment
    bags: list[tuple[int, ...]]  # of each kind of structure that is more than its bits, its row
    edges: dict[tuple[int, int], str]  # number of a clock and its new value → the function for all that this edge wakes


class ClockProcess(Frozen, frozen=True):
    signal: Signal
    site: int
    ticks: int


def clock_of(process: Process) -> ClockProcess | None:
    """A process that does nothing but wait a constant time and invert one bit, over and over, perhaps after a start
    that doesn't wait: the kernel can do that by itself."""
    body = process.body
    if process.kind == "initial":
        if not body or not isinstance(body[-1], n.Loop) or walk.suspends(body[:-1]):
            if len(body) == 1 and isinstance(body[0], n.Block) and not body[0].name:
                return clock_of(replace(process, body=body[0].body))
            return None
        loop = body[-1]
        if loop.cond is not None or loop.step or loop.test_last:
            return None
        body = loop.body
    elif process.kind != "always" or process.sense is not None:
        return None
    if len(body) == 1 and isinstance(body[0], n.Block) and not body[0].name:
        body = body[0].body
    match body:
        case [
            n.Delay(ticks=n.Const(val=ticks, unk=0)),
            n.Assign(site=site, target=(place,), value=value, delay=None, events=()),
        ] if ticks > 0:
            match value:
                case n.Unary(op="~" | "!", a=n.Ref(signal=signal, element=None)) if (
                    signal is place.signal
                    and place.bits is None
                    and place.element is None
                    and place.width == 1
                    and signal.kind != "local"
                ):
                    return ClockProcess(signal, site, ticks)
    return None


class ModuleLowerer:
    def __init__(self, design: Design, layout: Layout) -> None:
        self.design = design
        self.layout = layout
        self.parts: list[str] = []
        self.intrinsics: set[str] = set()
        self.entries: list[str] = []
        self.exits: dict[int, str] = {}
        self.left: dict[int, bool] = {}
        self.process: Process | None = None
        self.disables: list[n.Block] = []
        self.remote_blocks: dict[int, tuple[Function, int, int, int, int, int]] = {}
        self._bags: dict[tuple[int, ...], int] = {}
        self._names: dict[Subprogram, str] = {}
        self._tasks: dict[Subprogram, tuple[int, Function]] = {}
        self._task_ports: dict[Subprogram, dict[Signal, int]] = {}
        self._constants: dict[bytes, str] = {}
        self._entry_of: dict[int, int] = {}
        self._sizes: list[tuple[str, Function]] = []
        self._forced = {(name[0].unit, name[1]) for slot in layout.slots if slot.forced for name in slot.names}
        self._writers: set[int] = set()
        self._scheduled = self._nonblocking_targets()
        self.waited = waited_in(layout.by_unit)
        self.drivers_of: dict[Unit, dict[tuple[Process, int], int]] = {}
        self._number_drivers()

    def bag(self, t: Bag) -> int:
        """The number of a kind of structure: its row is as kernel/list.c has it."""
        words = (t.width + 63) // 64 if t.begins is not None else 0
        halves = [plane >> 32 * k & 0xFFFFFFFF for plane in t.begins or () for k in range(2 * words)]
        return self._bags.setdefault((len(t.lists), *t.lists, words, *halves), len(self._bags))

    def _number_drivers(self) -> None:
        """The place of each indirect driver in the table of its unit's instances."""
        for unit in self.layout.by_unit:
            found: dict[tuple[Process, int], int] = {}
            for process in unit.processes:
                if process.body and isinstance(process.body[0], n.Drive):
                    for index in range(len(process.body[0].target)):
                        if (process, index) in self.layout.indirect:
                            found[process, index] = len(found)
            self.drivers_of[unit] = found

    # ---- what functions ask for ----

    def single(self, unit: Unit) -> Instance:
        return self.layout.by_unit[unit][0]

    def forced(self, unit: Unit, signal: Signal) -> bool:
        if (unit, signal) in self._forced:
            return True
        if signal.via is not None:
            return False
        if signal.target is not None:
            return any(self.layout.slot(i, signal).forced for i in self.layout.by_unit[unit])
        return False

    def driver(self, f: Function, process: Process, index: int) -> str:
        place = self.drivers_of[f.unit][process, index]
        instance = f.fixed()
        if instance is not None:
            for slot in self.layout.slots:
                for d in slot.drivers:
                    if d.process is process and d.part == index and d.instance is instance:
                        return str(d.number)
        signals = len(f.unit.signals) + len(f.unit.standins)
        return f.table(8 + 8 * signals + 4 * place)

    def _nonblocking_targets(self) -> set[int]:
        """The signals that a nonblocking assignment writes as a whole."""
        found: set[int] = set()
        for unit, instances in self.layout.by_unit.items():
            bodies = [*(p.body for p in unit.processes), *(s.body for s in unit.subprograms)]
            for s in (s for body in bodies for s in walk.statements(body) if isinstance(s, n.Schedule)):
                for part in s.target:
                    if part.element is None and part.bits is None and part.signal.kind != "local" and part.signal.via is None:
                        found.update(self.layout.slot(i, part.signal).number for i in instances)
        return found

    def writer(self, number: str, bits: int, planes: int) -> str:
        """The function that writes a signal: made for it if the number is known and its fan-out is small."""
        slot = self.layout.slots[int(number)] if number.isdigit() else None
        if slot is None or not has_commit(slot):
            return f"{'w' if planes > 1 else 'b'}{bits}"
        if slot.number not in self._writers:
            self._writers.add(slot.number)
            self.parts.append(commit_write(slot, bits, planes))
        return f"ws{slot.number}"

    def instance_number(self, f: Function) -> str:
        instance = f.fixed()
        if instance is not None:
            return str(instance.number)
        return f.table(0)

    def text(self, scope: str) -> str:
        return self.data(scope.encode() + b"\0")

    def data(self, content: bytes) -> str:
        """A constant array of bytes, made once."""
        name = self._constants.get(content)
        if name is None:
            name = f"@data{len(self._constants)}"
            self._constants[content] = name
            text = "".join(chr(b) if 32 <= b < 127 and b not in (34, 92) else f"\\{b:02X}" for b in content)
            self.parts.append(f'{name} = private constant [{len(content)} x i8] c"{text}"\n')
        return name

    def entry(self, name: str) -> int:
        self.entries.append(name)
        return len(self.entries) - 1

    def subprogram(self, sub: Subprogram) -> str:
        """The name of the function for a subprogram that never waits; made at the first call."""
        name = self._names.get(sub)
        if name is None:
            name = f"sub{len(self._names)}"
            self._names[sub] = name
            self._lower_subprogram(sub, name)
        return name

    def _lower_subprogram(self, sub: Subprogram, name: str) -> None:
        forks = any(isinstance(s, n.Fork) for s in walk.statements(sub.body))
        f = Function(self, sub.unit, forks, is_process=False)
        if forks:  # its variables live as long as the branches (IEEE 1800-2017 13.4.4)
            mark = f"@@room of {name}@@"
            self._sizes.append((mark, f))
            f.emit(f"%f = call ptr @k_open_frame(i32 {mark}, ptr %inst)")
        lower = StatementLowerer(self, f)
        saved = self.process
        recursive = any(
            isinstance(x, n.Call) for s in walk.statements(sub.body) for e in walk.own_expressions(s) for x in walk.expressions(e)
        ) or any(isinstance(s, n.CallTask) for s in walk.statements(sub.body))
        if recursive:
            d = f.op("load i32, ptr @depth")
            more = f.op(f"add i32 {d}, 1")
            f.emit(f"store i32 {more}, ptr @depth")
            f.emit(f"call void @k_stack(i32 {more}, i32 {sub.body[0].site if sub.body else 0})")
        for index, (port, direction) in enumerate(zip(sub.ports, sub.directions, strict=True)):
            if port.dims:
                self._array_port(f, lower, port, direction, f"%arg{index}")
                continue
            if direction == "output":
                continue
            width = port.type.width if isinstance(port.type, Vec) else 64
            if isinstance(port.type, Real):
                value: object = f.op(f"load double, ptr %arg{index}")
            else:
                size = max((width + 63) // 64, 1) * 8
                value = f.load_planes(f"%arg{index}", width, size, 2)
            lower.write((n.LRef(port, None, None, width),), value, 0)  # type: ignore[arg-type]
        if sub.automatic and sub.result is not None and sub.result.dims and isinstance(sub.result.type, Vec):
            array = Array(sub.result.type, sub.result.dims)
            place = n.LRef(sub.result, None, None, sub.result.type.width)
            lower.run([n.AssignArray(0, place, array, n.ArrayConst(array, (_initial(sub.result),)))])
        elif sub.automatic and sub.result is not None and isinstance(sub.result.type, Vec):
            lower.write((n.LRef(sub.result, None, None, sub.result.type.width),), lower.value(_initial(sub.result)), 0)
        lower.run(sub.body)
        if not f.terminated:
            for index, (port, direction) in enumerate(zip(sub.ports, sub.directions, strict=True)):
                if direction == "input":
                    continue
                self._return_value(f, lower, port, f"%arg{index}")
            if sub.result is not None:
                self._return_value(f, lower, sub.result, "%result")
            given = [p for p, d in zip(sub.ports, sub.directions) if d != "input"] + ([sub.result] if sub.result else [])
            f.free_lists({f.stack[p] for p in given if p in f.stack})
            if forks:
                f.emit("call void @k_free(ptr %f)")
            if recursive:
                d = f.op("load i32, ptr @depth")
                less = f.op(f"sub i32 {d}, 1")
                f.emit(f"store i32 {less}, ptr @depth")
            f.ret("void")
        self.process = saved
        args = "".join(f", ptr %arg{index}" for index in range(len(sub.ports)))
        self.parts.append(f.text(f"define internal void @{name}(ptr %m, ptr %inst, ptr %result{args})"))

    def _array_port(self, f: Function, lower: StatementLowerer, port: Signal, direction: str, arg: str) -> None:
        """The caller hands over a copy, which an automatic subprogram uses as its variable."""
        array = Array(port.type, port.dims)
        size, planes, _ = layout_of(port.type)
        if port.kind == "local":
            if f.framed:  # the copy is gone when the function is left
                what = f"i32 {size}, i32 {planes}, ptr {arg}, i32 {size}, i32 {planes}, i64 {port.elements}"
                f.emit(f"call void @k_array_copy(ptr {f.local(port)}, {what})")
            else:
                f.stack[port] = arg
            start = _initial(port) if isinstance(port.type, Vec) else n.RealConst(port.type, 0.0)
            if direction == "output":
                place = n.LRef(port, None, None, width_of(port.type))
                lower.run([n.AssignArray(0, place, array, n.ArrayConst(array, (start,)))])
        elif direction != "output":
            lower._write_array(n.LRef(port, None, None, width_of(port.type)), array, arg, size, planes, 0)

    def _return_value(self, f: Function, lower: StatementLowerer, signal: Signal, to: str) -> None:
        skip, go = f.label("skip"), f.label("give")
        wanted = f.op(f"icmp ne ptr {to}, null")
        f.branch(wanted, go, skip)
        f.start(go)
        if signal.dims:
            size, planes, _ = layout_of(signal.type)
            at, there, planes_there = lower.array(n.Ref(Array(signal.type, signal.dims), signal))
            if at != to:
                f.emit(
                    f"call void @k_array_copy(ptr {to}, i32 {size}, i32 {planes}, ptr {at}, i32 {there}, i32 {planes_there}, "
                    f"i64 {signal.elements})"
                )
        elif isinstance(signal.type, Real):
            f.emit(f"store double {lower.real(n.Ref(signal.type, signal))}, ptr {to}")
        else:
            value = lower.value(n.Ref(signal.type, signal))
            f.store_planes(to, value, max((value.w + 63) // 64, 1) * 8, 2)
        f.start(skip)

    # ---- framed functions ----

    def task_frame(self, task: Subprogram) -> tuple[int, str]:
        """The entry of a task that waits and, as a mark filled in at the end, the size of its frame."""
        made = self._tasks.get(task)
        if made is None:
            f = Function(self, task.unit, True)
            number = self.entry(f"task{len(self._tasks)}")
            name = self.entries[number]
            made = (number, f)
            self._tasks[task] = made
            ports: dict[Signal, int] = {}
            for port in [*task.ports, *([task.result] if task.result else [])]:
                if port.kind == "local":
                    width = port.type.width if isinstance(port.type, Vec) else 64
                    ports[port] = f.reserve(plane_bytes(width) * planes_of(port) * port.elements)
                    f.offsets[port] = ports[port]
            self._task_ports[task] = ports
            self._body(f, task.body, name, number, "call void @k_return(ptr %f)", "i32 1")
        return made[0], f"@@size{made[0]}@@"

    def task_offset(self, task: Subprogram, port: Signal) -> int:
        return self._task_ports[task][port]

    def branch(self, parent: Function, body: n.Stmt, own: list[Signal]) -> tuple[int, str, Function]:
        """A branch of a fork, with variables of its own; gives its entry, a mark for the size of its frame, and its function."""
        f = Function(self, parent.unit, True, parent=parent)
        for signal in own:
            width = signal.type.width if isinstance(signal.type, Vec) else 64
            f.offsets[signal] = f.reserve(plane_bytes(width) * planes_of(signal) * signal.elements)
        number = self.entry(f"branch{len(self.entries)}")
        self._body(f, [body], self.entries[number], number, "", "i32 2")
        return number, f"@@size{number}@@", f

    def closure(self, parent: Function, s: n.SysTask) -> int:
        """A print that is made at the end of the moment."""
        f = Function(self, parent.unit, False)
        f.offsets = parent.offsets
        number = self.entry(f"late{len(self.entries)}")
        lower = StatementLowerer(self, f)
        lower._print(s)
        f.ret("i32 0")
        self.parts.append(f.text(f"define i32 @{self.entries[number]}(ptr %m, ptr %f)"))
        return number

    def _body(self, f: Function, body: list[n.Stmt], name: str, number: int, last: str, code: str) -> None:
        saved_exits, saved_left = dict(self.exits), dict(self.left)
        StatementLowerer(self, f).run(body)
        if not f.terminated:
            if last:
                f.emit(last)
            f.free_lists(set())
            f.ret(code)
        self.exits, self.left = saved_exits, saved_left
        self._sizes.append((f"@@size{number}@@", f))
        self._entry_of[id(f)] = number
        self.parts.append(f.text(f"define i32 @{name}(ptr %m, ptr %f)"))

    # ---- the whole ----

    def lower(self) -> Code:
        process_entry: dict[tuple[Unit, Process], int] = {}
        frame_size: dict[tuple[Unit, Process], int] = {}
        active = {p for _, p in self.layout.active if p.cell is None}
        static = {p for p in active if self._form(p)[1]}
        self.layout.set_fans(static, EDGES)
        for unit in self.layout.by_unit:
            for process in unit.processes:
                if process not in active:
                    continue
                self.process = process
                body, _, framed = self._form(process)
                f = Function(self, unit, framed)
                number = self.entry(f"proc{len(self.entries)}")
                self._body(f, body, self.entries[number], number, "", "i32 2")
                process_entry[unit, process] = number
                frame_size[unit, process] = f.frame_size
        # a branch or task lowered later may still have put locals into a frame counted above
        keys = {f"@@size{number}@@": key for key, number in process_entry.items()}
        for mark, f in self._sizes:
            if mark in keys:
                frame_size[keys[mark]] = f.frame_size
        commits = [slot for slot in self.layout.slots if has_commit(slot)]
        self.parts += [commit_function(self.layout, slot) for slot in commits]
        applies = [slot for slot in self.layout.slots if slot.number in self._scheduled and has_apply(slot)]
        for slot in applies:
            self.parts.append(apply_function(slot, self.writer(str(slot.number), 8 * slot.bytes, slot.planes)))
        clocks: dict[Slot, None] = {}
        for instance, process in self.layout.active:
            clock = clock_of(process) if process.cell is None else None
            if clock is not None:
                clocks[self.layout.slot(instance, clock.signal)] = None
        edges = edge_functions(self, static, clocks)
        text = prelude() + "\n".join(sorted(self.intrinsics)) + "\n" + "".join(self.parts) + "!0 = !{}\n"
        if "@@" in text:
            for mark, f in self._sizes:
                text = text.replace(mark, str(f.frame_size))
            for number, block in enumerate(self.disables):
                where = self.remote_blocks.get(id(block))
                if where is None:
                    values = (0xFFFFFFFF, 0, 0, 0, 0, 0)
                else:
                    values = (self._entry_of[id(where[0])], *where[1:])
                for part, value in zip(DISABLED, values, strict=True):
                    text = text.replace(f"@@{part}{number}@@", str(value))
        return Code(
            text,
            self.entries,
            process_entry,
            frame_size,
            static,
            {s.number: commit_name(s) for s in commits},
            {s.number: apply_name(s) for s in applies},
            list(self._bags),
            edges,
        )

    @staticmethod
    def _form(process: Process) -> tuple[list[n.Stmt], bool, bool]:
        """The body to lower, whether the static fan-out wakes it, and whether it needs a frame for its locals."""
        body = process.body
        late = any(isinstance(s, n.SysTask) and s.name.rstrip("boh") in _LATE for s in walk.statements(body))
        if process.sense is not None:
            if all(static_sense(s) for s in process.sense) and not process.region:
                return body, True, late
            waiting: list[n.Stmt] = [n.WaitEvent(body[0].site if body else 0, process.sense)]
            inner = [*body, *waiting] if process.kind in ("assign", "always_comb", "link") else [*waiting, *body]
            return [n.Loop(body[0].site if body else 0, None, inner, [])], False, True
        if process.kind == "always":
            return [n.Loop(body[0].site if body else 0, None, body, [])], False, True
        return body, False, late or walk.suspends(body)


def _initial(signal: Signal) -> n.Const:
    assert isinstance(signal.type, Vec)
    if isinstance(signal.init, n.Const):
        return n.Const(signal.type, signal.init.val, signal.init.unk)
    ones = (1 << signal.type.width) - 1 if signal.type.four else 0
    return n.Const(signal.type, ones, ones)
