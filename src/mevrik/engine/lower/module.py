"""A whole module of generated code: one function a process, subprogram, fork branch or postponed print."""

from __future__ import annotations

from dataclasses import dataclass

from mevrik.design import nodes as n
from mevrik.design import walk
from mevrik.design.types import Real, Vec
from mevrik.design.unit import Design, Process, Signal, Subprogram, Unit
from mevrik.engine.layout import Instance, Layout, plane_bytes, planes_of
from mevrik.engine.lower.function import Function
from mevrik.engine.lower.prelude import prelude
from mevrik.engine.lower.statements import StatementLowerer, simple_sense

_LATE = ("$strobe", "$monitor", "$fstrobe", "$fmonitor")


@dataclass(frozen=True, slots=True)
class Code:
    """The text, the entry points by number, and for each process (by `Process.number`) its entry, frame size and form."""

    text: str
    entries: list[str]
    process_entry: dict[tuple[Unit, Process], int]
    frame_size: dict[tuple[Unit, Process], int]
    static: set[Process]


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
        self.remote_blocks: dict[int, tuple[Function, int, int, int]] = {}
        self._names: dict[Subprogram, str] = {}
        self._tasks: dict[Subprogram, tuple[int, Function]] = {}
        self._task_ports: dict[Subprogram, dict[Signal, int]] = {}
        self._strings: dict[str, str] = {}
        self._entry_of: dict[int, int] = {}
        self._sizes: list[tuple[str, Function]] = []
        self._forced = {(name[0].unit, name[1]) for slot in layout.slots if slot.forced for name in slot.names}
        self.drivers_of: dict[Unit, dict[tuple[Process, int], int]] = {}
        self._number_drivers()

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
        if signal.target is not None:
            return any(self.layout.slot(i, signal).forced for i in self.layout.by_unit[unit])
        return False

    def driver(self, f: Function, process: Process, index: int) -> str:
        place = self.drivers_of[f.unit][process, index]
        if not self.layout.shared(f.unit):
            instance = self.single(f.unit)
            for slot in self.layout.slots:
                for d in slot.drivers:
                    if d.process is process and d.part == index and d.instance is instance:
                        return str(d.number)
        signals = len(f.unit.signals) + len(f.unit.standins)
        return f.table(8 + 8 * signals + 4 * place)

    def instance_number(self, f: Function) -> str:
        if not self.layout.shared(f.unit):
            return str(self.single(f.unit).number)
        return f.table(0)

    def text(self, scope: str) -> str:
        name = self._strings.get(scope)
        if name is None:
            name = f"@text{len(self._strings)}"
            self._strings[scope] = name
            data = "".join(chr(b) if 32 <= b < 127 and b not in (34, 92) else f"\\{b:02X}" for b in scope.encode())
            size = len(scope.encode()) + 1
            self.parts.append(f'{name} = private constant [{size} x i8] c"{data}\\00"\n')
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
        f = Function(self, sub.unit, False, is_process=False)
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
            if direction == "output":
                continue
            width = port.type.width if isinstance(port.type, Vec) else 64
            if isinstance(port.type, Real):
                value: object = f.op(f"load double, ptr %arg{index}")
            else:
                size = max((width + 63) // 64, 1) * 8
                value = f.load_planes(f"%arg{index}", width, size, 2)
            lower.write((n.LRef(port, None, None, width),), value, 0)  # type: ignore[arg-type]
        if sub.automatic and sub.result is not None and isinstance(sub.result.type, Vec):
            lower.write((n.LRef(sub.result, None, None, sub.result.type.width),), lower.value(_initial(sub.result)), 0)
        lower.run(sub.body)
        if not f.terminated:
            for index, (port, direction) in enumerate(zip(sub.ports, sub.directions, strict=True)):
                if direction == "input":
                    continue
                self._return_value(f, lower, port, f"%arg{index}")
            if sub.result is not None:
                self._return_value(f, lower, sub.result, "%result")
            if recursive:
                d = f.op("load i32, ptr @depth")
                less = f.op(f"sub i32 {d}, 1")
                f.emit(f"store i32 {less}, ptr @depth")
            f.ret("void")
        self.process = saved
        args = "".join(f", ptr %arg{index}" for index in range(len(sub.ports)))
        self.parts.append(f.text(f"define internal void @{name}(ptr %m, ptr %inst, ptr %result{args})"))

    def _return_value(self, f: Function, lower: StatementLowerer, signal: Signal, to: str) -> None:
        skip, go = f.label("skip"), f.label("give")
        wanted = f.op(f"icmp ne ptr {to}, null")
        f.branch(wanted, go, skip)
        f.start(go)
        if isinstance(signal.type, Real):
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

    def branch(self, parent: Function, body: n.Stmt) -> tuple[int, str]:
        f = Function(self, parent.unit, True, parent=parent)
        number = self.entry(f"branch{len(self.entries)}")
        self._body(f, [body], self.entries[number], number, "", "i32 2")
        return number, f"@@size{number}@@"

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
            f.ret(code)
        self.exits, self.left = saved_exits, saved_left
        self._sizes.append((f"@@size{number}@@", f))
        self._entry_of[id(f)] = number
        self.parts.append(f.text(f"define i32 @{name}(ptr %m, ptr %f)"))

    # ---- the whole ----

    def lower(self) -> Code:
        process_entry: dict[tuple[Unit, Process], int] = {}
        frame_size: dict[tuple[Unit, Process], int] = {}
        static: set[Process] = set()
        active = {p for _, p in self.layout.active}
        for unit in self.layout.by_unit:
            for process in unit.processes:
                if process not in active:
                    continue
                self.process = process
                body, is_static, framed = self._form(process)
                if is_static:
                    static.add(process)
                f = Function(self, unit, framed)
                number = self.entry(f"proc{len(self.entries)}")
                self._body(f, body, self.entries[number], number, "", "i32 2")
                process_entry[unit, process] = number
                frame_size[unit, process] = f.frame_size
        # a branch or task lowered later may still have put locals into a frame counted above
        for mark, f in self._sizes:
            for key, number in process_entry.items():
                if mark == f"@@size{number}@@":
                    frame_size[key] = f.frame_size
        text = prelude() + "\n".join(sorted(self.intrinsics)) + "\n" + "".join(self.parts) + "!0 = !{}\n"
        if "@@" in text:
            for mark, f in self._sizes:
                text = text.replace(mark, str(f.frame_size))
            for number, block in enumerate(self.disables):
                where = self.remote_blocks.get(id(block))
                if where is None:
                    values = (0xFFFFFFFF, 0, 0, 0)
                else:
                    f, low, high, state = where
                    values = (self._entry_of[id(f)], low, high, state)
                for part, value in zip(("fn", "low", "high", "state"), values, strict=True):
                    text = text.replace(f"@@{part}{number}@@", str(value))
        return Code(text, self.entries, process_entry, frame_size, static)

    @staticmethod
    def _form(process: Process) -> tuple[list[n.Stmt], bool, bool]:
        """The body to lower, whether the static fan-out wakes it, and whether it needs a frame for its locals."""
        body = process.body
        late = any(isinstance(s, n.SysTask) and s.name.rstrip("boh") in _LATE for s in walk.statements(body))
        if process.sense is not None:
            if all(simple_sense(s) for s in process.sense):
                return body, True, late
            waiting: list[n.Stmt] = [n.WaitEvent(body[0].site if body else 0, process.sense)]
            inner = [*body, *waiting] if process.kind in ("assign", "always_comb", "link") else [*waiting, *body]
            return [n.Loop(body[0].site if body else 0, None, inner, [])], False, True
        if process.kind == "always":
            return [n.Loop(body[0].site if body else 0, None, body, [])], False, True
        return body, False, late or walk.suspends(body)


def _initial(signal: Signal) -> n.Const:
    assert isinstance(signal.type, Vec)
    ones = (1 << signal.type.width) - 1 if signal.type.four else 0
    return n.Const(signal.type, ones, ones)
