"""Calls of tasks and of system tasks as IR (IEEE 1364-2005 10.2, 17)."""

from __future__ import annotations

from collections.abc import Sequence

from mevrik.design import nodes as n
from mevrik.design.record import replace
from mevrik.design.types import Array, Real, Vec, width_of
from mevrik.design.unit import Signal, Subprogram
from mevrik.engine.layout import plane_bytes
from mevrik.engine.lower.function import Val, layout_of
from mevrik.engine.lower.writes import WriteLowerer

_RADIX = {"b": 2, "o": 8, "h": 16}
_SEVERITY = {"$info": 1, "$warning": 2, "$error": 3, "$fatal": 4}
_FINISH = 1
_STOP = 2


def _seen_from(s: n.CallTask, port: Signal) -> Signal:
    """The argument of a static task, which lies in the instance that the task is called in."""
    return port if s.via is None or port.kind == "local" else replace(port, target=port, via=s.via, number=-1)


class TaskLowerer(WriteLowerer):
    # ---- tasks ----

    def _do_calltask(self, s: n.CallTask) -> None:
        f = self.f
        task = s.task
        if not task.suspends:
            self._call_plain(s)
            return
        table = ""
        if s.via is not None:
            task, table = self.linked(s.via, task)
        number, size = self.module.task_frame(task)
        values: list[tuple[Signal, Val | str]] = []
        arrays: list[tuple[Signal, tuple[str, int, int]]] = []
        for port, arg in zip(task.ports, s.args, strict=True):
            if isinstance(arg, n.Expr) and port.dims:
                arrays.append((port, self.array(arg)))
            elif isinstance(arg, n.Expr):
                values.append((port, self.evaluate(arg)))
        child = f.op(f"call ptr @k_call(i32 {number}, i32 {size}, ptr %f)")
        if table:
            f.emit(f"store ptr {table}, ptr {f.op(f'getelementptr i8, ptr {child}, i64 16')}")
        slot = f.reserve(8)
        p = f.op(f"getelementptr i8, ptr %f, i64 {slot}")
        f.emit(f"store ptr {child}, ptr {p}")
        for port, value in values:
            if port.kind == "local":
                self._store_in_frame(child, self.module.task_offset(task, port), port, value)
            else:
                self.write((n.LRef(_seen_from(s, port), None, None, width_of(port.type)),), value, s.site)
        for port, (array_at, bytes_, planes) in arrays:
            self._hand_over(child, task, _seen_from(s, port), array_at, bytes_, planes, s.site)
        f.wait_here(1)
        p = f.op(f"getelementptr i8, ptr %f, i64 {slot}")
        child = f.op(f"load ptr, ptr {p}")
        for port, places in zip(task.ports, s.copy_back, strict=True):
            if places is None:
                continue
            if port.dims:
                self._take_array(child, task, _seen_from(s, port), places[0], s.site)
                continue
            if port.kind == "local":
                at = f.op(f"getelementptr i8, ptr {child}, i64 {self.module.task_offset(task, port)}")
                result = self._load_at(at, port)
            else:
                result = self.evaluate(n.Ref(port.type, _seen_from(s, port)))
            self.write(places, self._fit(result, port, places), s.site)
        f.emit(f"call void @k_free(ptr {child})")

    def _hand_over(self, child: str, task: Subprogram, port: Signal, at: str, size: int, planes: int, site: int) -> None:
        """An array as an argument of a task that waits."""
        f = self.f
        array = Array(port.type, port.dims)
        if port.kind != "local":
            self._write_array(n.LRef(port, None, None, width_of(port.type)), array, at, size, planes, site)
            return
        to_size, to_planes, _ = layout_of(port.type)
        to = f.op(f"getelementptr i8, ptr {child}, i64 {self.module.task_offset(task, port)}")
        f.emit(
            f"call void @k_array_copy(ptr {to}, i32 {to_size}, i32 {to_planes}, ptr {at}, i32 {size}, i32 {planes}, i64 {array.count})"
        )

    def _take_array(self, child: str, task: Subprogram, port: Signal, place: n.LRef, site: int) -> None:
        f = self.f
        array = Array(port.type, port.dims)
        size, planes, _ = layout_of(port.type)
        if port.kind == "local":
            at = f.op(f"getelementptr i8, ptr {child}, i64 {self.module.task_offset(task, port)}")
        else:
            at, size, planes = self.array(n.Ref(array, port))
        self._write_array(place, array, at, size, planes, site)

    def _load_at(self, at: str, port: Signal) -> Val | str:
        f = self.f
        if isinstance(port.type, Real):
            return f.op(f"load double, ptr {at}")
        assert isinstance(port.type, Vec)
        return f.load_planes(at, port.type.width, plane_bytes(port.type.width), 2 if port.type.four else 1)

    def _fit(self, value: Val | str, port: Signal, places: tuple[n.LRef, ...]) -> Val | str:
        """A result as an assignment to the actual makes it."""
        real_target = isinstance(places[0].signal.type, Real)
        f = self.f
        if isinstance(value, str):
            if real_target:
                return value
            total = sum(p.width for p in places)
            words = (total + 63) // 64
            at = f.alloca(8 * words)
            f.emit(f"call void @k_from_real(ptr {at}, double {value}, i32 {words})")
            return f.load_planes(at, total, 8 * words, 1)
        assert isinstance(port.type, Vec)
        if real_target:
            pv, pu = f.spill(value)
            return f.op(f"call double @k_to_real(ptr {pv}, ptr {pu}, i32 {value.w}, i32 {int(port.type.signed)})")
        return self.resized(value, sum(p.width for p in places), port.type.signed)

    def _call_plain(self, s: n.CallTask) -> None:
        f = self.f
        task, inst = (s.task, f.inst()) if s.via is None else self.linked(s.via, s.task)
        name = self.module.subprogram(task)
        args: list[str] = []
        outs: list[tuple[str, Signal, tuple[n.LRef, ...]]] = []
        for port, arg, places in zip(task.ports, s.args, s.copy_back, strict=True):
            at = self.argument(port, arg) if isinstance(arg, n.Expr) else "null"
            if places is not None:
                if at == "null":
                    size, planes, width = layout_of(port.type)
                    at = f.alloca(size * planes * port.elements if port.dims else 16 * max((width + 63) // 64, 1))
                outs.append((at, port, places))
            args.append(at)
        extra = "".join(f", ptr {a}" for a in args)
        f.emit(f"call void @{name}(ptr %m, ptr {inst}, ptr null{extra})")
        self.site = s.site
        for at, port, places in outs:
            self.take_output(at, port, places)

    def take_output(self, at: str, port: Signal, places: tuple[n.LRef, ...]) -> None:
        f = self.f
        if port.dims:
            size, planes, _ = layout_of(port.type)
            self._write_array(places[0], Array(port.type, port.dims), at, size, planes, self.site)
            return
        value: Val | str
        if isinstance(port.type, Real):
            value = f.op(f"load double, ptr {at}")
        else:
            assert isinstance(port.type, Vec)
            size = max((port.type.width + 63) // 64, 1) * 8
            value = f.load_planes(at, port.type.width, size, 2 if port.type.four else 1)
        self.write(places, self._fit(value, port, places), self.site)

    # ---- system tasks ----

    def _do_systask(self, s: n.SysTask) -> None:
        name = s.name
        if name in ("$finish", "$stop"):
            self.f.emit(f"call void @k_finish(i32 {_FINISH if name == '$finish' else _STOP}, i32 {s.site})")
            self.f.emit("unreachable")
            self.f.terminated = True
            return
        base = name.rstrip("boh") if name[1:].rstrip("boh") in (
            "display", "write", "strobe", "monitor", "fdisplay", "fwrite", "fstrobe", "fmonitor",
        ) else name  # fmt: skip
        handler = getattr(self, "_sys_" + base[1:], None)
        if handler is not None:
            handler(s)
            return
        if base in ("$display", "$write", "$fdisplay", "$fwrite", *_SEVERITY):
            self._print(s)
        elif base in ("$strobe", "$monitor", "$fstrobe", "$fmonitor"):
            function = "strobe" if base == "$fstrobe" else base[1:]
            file = f", i32 {self._file(s)}" if base == "$fmonitor" else ""
            self.f.emit(f"call void @k_{function}(i32 {self.module.closure(self.f, s)}, ptr %f{file})")

    def _print(self, s: n.SysTask) -> None:
        f = self.f
        name = s.name
        radix = _RADIX.get(name[-1], 10) if name[-1] in "boh" and name not in ("$stop", "$info") else 10
        args = list(s.args)
        file = "1"
        if name.startswith("$f") and not name.startswith("$fatal"):
            first = args.pop(0) if args else None
            file = self.known(self.resized(self.value(first), 32, False)).v if first is not None else "0"
        how = 1 if "display" in name or "strobe" in name or "monitor" in name else 0
        severity = _SEVERITY.get(name, 0)
        if severity == 4 and args and isinstance(args[0], n.Const) and not args[0].text:
            args.pop(0)
        how |= severity << 4
        array = self.arg_array(args)
        inst = self.module.instance_number(f)
        scope = self.module.text(s.scope)
        unit = f.unit.unit_exp if s.unit is None else s.unit
        f.emit(
            f"call void @k_print(i32 {how}, i32 {radix}, i32 {file}, i32 {inst}, ptr {scope}, i32 {unit}, i32 {s.site}, "
            f"ptr {array}, i32 {len(args)})"
        )
        if severity == 4:
            f.emit(f"call void @k_finish(i32 {_FINISH}, i32 {s.site})")
            f.emit("unreachable")
            f.terminated = True

    def _sys_event_fire(self, s: n.SysTask) -> None:
        number = self.f.op(f"sub i32 {self._file(s)}, 1")
        self.f.emit(f"call void @k_trigger(i32 {number}, i32 {s.site})")

    def _sys_process_suspend(self, s: n.SysTask) -> None:
        self.f.emit(f"call void @k_process_suspend(i32 {self._file(s)})")

    def _sys_process_kill(self, s: n.SysTask) -> None:
        self.f.emit(f"call void @k_process_kill(i32 {self._file(s)})")

    def _sys_exit(self, s: n.SysTask) -> None:
        self.f.emit("call void @k_exit()")

    def _sys_process_resume(self, s: n.SysTask) -> None:
        self.f.emit(f"call void @k_process_resume(i32 {self._file(s)})")

    def _switch_assertions(self, s: n.SysTask, how: int) -> None:
        (request,) = s.args
        assert isinstance(request, n.TextConst)
        data = self.module.data(request.value + b"\0")
        self.f.emit(f"call void @k_asserts(i32 {how}, i32 {self.module.instance_number(self.f)}, ptr {data})")

    def _sys_assertoff(self, s: n.SysTask) -> None:
        self._switch_assertions(s, 0)

    def _sys_asserton(self, s: n.SysTask) -> None:
        self._switch_assertions(s, 1)

    def _sys_assertkill(self, s: n.SysTask) -> None:
        self._switch_assertions(s, 2)
        self._switch_assertions(s, 0)

    def _sys_monitoron(self, s: n.SysTask) -> None:
        self.f.emit("call void @k_monitor_switch(i32 1)")

    def _sys_monitoroff(self, s: n.SysTask) -> None:
        self.f.emit("call void @k_monitor_switch(i32 0)")

    def _sys_timeformat(self, s: n.SysTask) -> None:
        args = [a for a in s.args if a is not None]
        self.f.emit(f"call void @k_time_format_args(ptr {self.arg_array(args)}, i32 {len(args)})")

    def _sys_printtimescale(self, s: n.SysTask) -> None:
        name, unit, precision = s.args
        assert isinstance(name, n.TextConst) and isinstance(unit, n.Const) and isinstance(precision, n.Const)
        text = f"Time scale of ({name.value.decode()}) is {power_of_ten(-unit.val)} / {power_of_ten(-precision.val)}".encode()
        const = n.Const(Vec(8 * len(text)), int.from_bytes(text, "big"), 0, True)
        self._print(n.SysTask(s.site, "$display", (const,), ""))

    def _file(self, s: n.SysTask) -> str:
        if not s.args or s.args[0] is None:
            return "0"
        return self.known(self.resized(self.value(s.args[0]), 32, False)).v

    def _sys_fclose(self, s: n.SysTask) -> None:
        self.f.emit(f"call void @k_fclose(i32 {self._file(s)})")

    def _sys_fflush(self, s: n.SysTask) -> None:
        self.f.emit(f"call void @k_fflush(i32 {self._file(s)})")

    def _sys_dumpfile(self, s: n.SysTask) -> None:
        self.f.emit(f"call void @k_dump_name(i32 {self.module.instance_number(self.f)}, ptr {self.arg_array(list(s.args))})")

    def _sys_dumpvars(self, s: n.SysTask) -> None:
        (request,) = s.args
        assert isinstance(request, n.TextConst)
        data = self.module.data(request.value + b"\0")
        self.f.emit(f"call void @k_dump_request(i32 {self.module.instance_number(self.f)}, ptr {data})")

    def _sys_dumpoff(self, s: n.SysTask) -> None:
        self.f.emit("call void @k_dump_switch(i32 2)")

    def _sys_dumpon(self, s: n.SysTask) -> None:
        self.f.emit("call void @k_dump_switch(i32 3)")

    def _sys_dumpall(self, s: n.SysTask) -> None:
        self.f.emit("call void @k_dump_switch(i32 4)")

    def _sys_dumplimit(self, s: n.SysTask) -> None:
        if s.args and s.args[0] is not None:
            self.f.emit(f"call void @k_dump_limit(i64 {self.index64(s.args[0])})")

    def _sys_dumpflush(self, s: n.SysTask) -> None:
        self.f.emit("call void @k_dump_flush()")

    def _sys_dumpports(self, s: n.SysTask) -> None:
        scopes = s.args[0]
        assert isinstance(scopes, n.TextConst)
        here, data = self.module.instance_number(self.f), self.module.data(scopes.value + b"\0")
        self.f.emit(f"call void @k_ports(i32 {here}, ptr {data}, {self._named_file(s.args[1:])}, i32 {s.site})")

    def _named_file(self, args: Sequence[n.Expr | None]) -> str:
        given = [a for a in args if a is not None]
        return f"ptr {self.arg_array(list(given))}, i32 {len(given)}"

    def _sys_dumpportsoff(self, s: n.SysTask) -> None:
        self.f.emit(f"call void @k_ports_switch(i32 2, {self._named_file(s.args)})")

    def _sys_dumpportson(self, s: n.SysTask) -> None:
        self.f.emit(f"call void @k_ports_switch(i32 3, {self._named_file(s.args)})")

    def _sys_dumpportsall(self, s: n.SysTask) -> None:
        self.f.emit(f"call void @k_ports_switch(i32 4, {self._named_file(s.args)})")

    def _sys_dumpportslimit(self, s: n.SysTask) -> None:
        if s.args and s.args[0] is not None:
            self.f.emit(f"call void @k_ports_limit(i64 {self.index64(s.args[0])}, {self._named_file(s.args[1:])})")

    def _sys_dumpportsflush(self, s: n.SysTask) -> None:
        self.f.emit(f"call void @k_ports_flush({self._named_file(s.args)})")

    def _sys_memory(self, s: n.SysTask, function: str, bits: int) -> None:
        f = self.f
        place = s.args[1]
        assert isinstance(place, n.SysCall) and isinstance(place.args[0], n.LRef)
        signal = place.args[0].signal
        rest: list[n.Expr | None] = [s.args[0], *s.args[2:]]
        left, right = signal.dims[0]
        number = f.storage(signal).number
        array = self.arg_array(rest)
        row = signal.elements // (abs(left - right) + 1)
        what = f"i32 {number}, i32 {s.site}, i32 {bits}, ptr {array}, i32 {len(rest)}, i64 {left}, i64 {right}, i32 {row}"
        f.emit(f"call void @{function}({what})")

    def _sys_readmemh(self, s: n.SysTask) -> None:
        self._sys_memory(s, "k_readmem", 4)

    def _sys_readmemb(self, s: n.SysTask) -> None:
        self._sys_memory(s, "k_readmem", 1)

    def _sys_writememh(self, s: n.SysTask) -> None:
        self._sys_memory(s, "k_writemem", 4)

    def _sys_writememb(self, s: n.SysTask) -> None:
        self._sys_memory(s, "k_writemem", 1)


def power_of_ten(exponent: int) -> str:
    """A time as the standards write it: -9 is "1ns", -8 "10ns"."""
    for name, base in (("s", 0), ("ms", -3), ("us", -6), ("ns", -9), ("ps", -12), ("fs", -15)):
        if exponent >= base:
            return f"{10 ** (exponent - base)}{name}"
    return f"1e{exponent}s"
