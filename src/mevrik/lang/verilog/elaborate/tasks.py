"""Calls of tasks and of system tasks as statements (IEEE 1364-2005 10.2, 17)."""

from __future__ import annotations

from collections.abc import Callable

from mevrik.design import nodes as n
from mevrik.design.types import BIT, INTEGER, TEXT, Text, Vec
from mevrik.design.unit import Annotation, Subprogram
from mevrik.lang.diagnostics import nearest
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.elaborate.assignments import AssignmentElaborator
from mevrik.lang.verilog.elaborate.base import whole
from mevrik.lang.verilog.elaborate.calls import SYSTEM_TYPES, span
from mevrik.lang.verilog.elaborate.classes import default_of
from mevrik.lang.verilog.elaborate.classinfo import Variants
from mevrik.lang.verilog.elaborate.formats import check_formats
from mevrik.lang.verilog.elaborate.logicarrays import LOGIC_ARRAYS, logic_array
from mevrik.lang.verilog.elaborate.randomize import STD_RANDOMIZE
from mevrik.lang.verilog.elaborate.scope import InstanceName, SubDecl, UnitRoot

DISPLAY = {f"{a}{b}" for a in ("$display", "$write", "$strobe", "$monitor") for b in ("", "b", "o", "h")}
FILE_DISPLAY = {f"{a}{b}" for a in ("$fdisplay", "$fwrite", "$fstrobe", "$fmonitor") for b in ("", "b", "o", "h")}
SWITCHES = {"$asserton", "$assertoff", "$assertkill"}
JOB_QUEUES = {"$q_initialize": 3, "$q_add": 3, "$q_remove": 1, "$q_exam": 2}  # how many arguments are read
TASKS = {
    *DISPLAY, *FILE_DISPLAY, *JOB_QUEUES, *LOGIC_ARRAYS, "$finish", "$stop", "$fatal", "$error", "$warning", "$info", "$monitoron", "$monitoroff",
    "$readmemh", "$readmemb", "$writememh", "$writememb", "$timeformat", "$printtimescale", "$fclose", "$fflush", "$dumpfile", "$dumpvars", "$dumpon",
    "$exit", "$dumpoff", "$dumpall", "$dumpflush", "$dumplimit", "$dumpports", "$dumpportsoff", "$dumpportson", "$dumpportsall",
    "$dumpportslimit", "$dumpportsflush", "$sdf_annotate", "$sformat", "$swrite", "$swriteb", "$swriteo", "$swriteh",
}  # fmt: skip
_LONG = Vec(64, True, False)


class TaskElaborator(AssignmentElaborator):
    module: ast.Module
    scale: ast.Timescale

    def _call_statement(self, s: ast.CallStmt, call: ast.Expr) -> list[n.Stmt]:
        if isinstance(call, ast.With):
            step = self.list_step(s, call)
            if step is not None:
                return step
            return self._unused(s, self.expr(call))
        if isinstance(call, (ast.Cast, ast.Increment, ast.AssignExpr)):
            return self._unused(s, self.expr(call))
        if isinstance(call, ast.Member):
            call = ast.Call(call.pos, call, [])
        if not isinstance(call, ast.Call):
            raise self.error(s.pos, "this is no call of a task", "not-callable")
        if isinstance(call.target, ast.Name) and call.target.name.startswith("$"):
            return self._system_task(s, call, call.target.name)
        step = self.list_step(s, call) or self.text_step(s, call)
        if step is not None:
            return step
        if self.shape_of_list_method(call) is not None or self.shape_of_method(call) is not None:
            return self._unused(s, self.build_call(call))  # a value that nobody takes, such as pop_front();
        call = self.draw_of(call)
        if isinstance(call.target, ast.Name) and call.target.name == STD_RANDOMIZE:
            return self._unused(s, self.build_call(call))
        decl, obj, variants = self.callee(call)
        if not s.void:
            self._result_left(decl, call)
        self.check_references(decl, call)
        block = self.inlined(s, decl, call) if not obj else None
        if block is not None:
            return block
        named, asked = decl.tree.name, call
        decl, call = self.referring(decl, call)

        def form_for(class_number: int, other: Subprogram) -> Subprogram:
            """What stands for a virtual method of another class in a call with arguments by reference."""
            if call is asked:
                return other
            info = next(c for c in self.context.classes.values() if c.number == class_number)
            method = info.find_method(named)
            assert method is not None
            return self.referring(method.decl, asked)[0].sub

        return self._call_of(s, call, decl, obj, variants, form_for)

    def _result_left(self, decl: SubDecl, call: ast.Call) -> None:
        """A function whose result nobody takes: no statement in Verilog (10.4.2), in SystemVerilog worth a warning (13.4.1)."""
        tree = decl.tree
        if tree.is_task or tree.type is None or tree.type.keyword == "void" or tree.name == "new":
            return
        if not self.module.sv:
            raise self.error(
                call.pos,
                f"'{tree.name}' is a function: its result must be used, as in x = {tree.name}(…) (10.4.2)",
                "result-unused",
            )
        message = f"the result of '{tree.name}' is not used: void'({tree.name}(…)) says that this is meant (13.4.1)"
        self.context.diagnostics.warning(call.pos, message, "result-unused")

    def inlined(self, s: ast.Node, decl: SubDecl, call: ast.Call) -> list[n.Stmt] | None:
        raise NotImplementedError

    def referring(self, decl: SubDecl, call: ast.Call) -> tuple[SubDecl, ast.Call]:
        raise NotImplementedError

    def _unused(self, s: ast.Node, value: n.Expr) -> list[n.Stmt]:
        """A value of which only the effect is wanted."""
        sink = self.local(value.type, s.pos)
        return [n.Assign(self.site(s), (whole(sink),), value)]

    def _call_of(
        self,
        s: ast.Node,
        call: ast.Call,
        decl: SubDecl,
        obj: tuple[n.Expr, ...],
        variants: Variants | None,
        form_for: Callable[[int, Subprogram], Subprogram],
    ) -> list[n.Stmt]:
        sub = decl.sub
        args = self.arguments(sub, call)
        site = self.site(s)
        after: list[n.Stmt] = []
        values: list[n.Expr | tuple[n.LRef, ...] | None] = []
        back: list[tuple[n.LRef, ...] | None] = []
        for index, (port, direction) in enumerate(zip(sub.ports, sub.directions, strict=True)):
            arg = args[index]
            if obj and index == 0:
                values.append(obj[0])
                back.append(None)
                continue
            value: n.Expr | None = None
            places: tuple[n.LRef, ...] | None = None
            if arg is None:
                default = sub.defaults[index]
                value = default_of(sub, default, obj) if default is not None else None
                if value is None:
                    raise self.error(
                        call.pos, f"'{sub.name}' needs a value for its argument '{port.name.rpartition('.')[2]}'", "arguments"
                    )
            else:
                if direction in ("input", "inout"):
                    value = self.argument_value(decl, index, arg)
                if direction in ("output", "inout"):
                    places = self.output_place(port, arg, site, after)
                    self.check_procedural(arg, places)
            values.append(value)
            back.append(places)
        through = self.link_call(call)
        plain: list[n.Stmt] = [n.CallTask(site, sub, tuple(values), tuple(back), through[0] if through is not None else None)]
        if variants is None:
            return [*plain, *after]

        scope = self.scope

        def choose() -> None:
            """A virtual method: the class of the object decides."""
            outer, self.scope = self.scope, scope
            forms = [(number, form_for(number, other)) for number, other in variants]
            self.scope = outer
            for class_number, other in forms:
                kind = Vec(32, False, False)
                mine = n.Binary(BIT, "==", n.ClassNumber(kind, obj[0], site), n.Const(kind, class_number))
                plain[:] = [n.If(site, mine, [n.CallTask(site, other, tuple(values), tuple(back))], [*plain])]

        self.context.virtual_tasks.append(choose)
        return [n.Block(site, plain), *after]

    def _system_task(self, s: ast.CallStmt, call: ast.Call, name: str) -> list[n.Stmt]:
        if name == "$cast":
            text = n.Const(Vec(8 * 11), int.from_bytes(b"cast failed", "big"), 0, True)
            return self.dynamic_cast(s, call, [], [n.SysTask(self.site(s), "$error", (text,), self.scope.prefix)])
        if name == "$process_await":
            return [n.ProcessAwait(self.site(s), self.expr(self.argument(call, 0)))]
        if name in ("$process_suspend", "$process_resume", "$process_kill", "$event_fire"):
            return [n.SysTask(self.site(s), name, (self.expr(self.argument(call, 0)),), self.scope.prefix)]
        if name == "$exit":
            if call.args:
                raise self.error(call.pos, "$exit takes no arguments (24.7)", "arguments")
            return [n.SysTask(self.site(s), name, (), self.scope.prefix)]
        if name in SWITCHES:
            levels = self.constant_int(self.argument(call, 0), "the number of levels") if call.args else 0
            lines = [str(levels), *(self._assertions_in(a) for a in call.args[1:] if a is not None)]
            return [n.SysTask(self.site(s), name, (n.TextConst(TEXT, "\n".join(lines).encode()),), self.scope.prefix)]
        if name not in TASKS:
            if name in SYSTEM_TYPES:
                return self._unused(s, self.expr(call))
            hint = nearest(name, TASKS)
            raise self.error(call.pos, f"the system task {name} is not supported{hint}", "unsupported")
        site = self.site(s)
        if name == "$sdf_annotate":
            self._annotation(call)
            return []
        if name in JOB_QUEUES:
            return self._job_queue(call, name, site)
        if name in LOGIC_ARRAYS:
            return self._logic_array(call, name)
        if name.startswith("$dump"):
            return [self._dump(call, name, site)]
        if name in ("$readmemh", "$readmemb", "$writememh", "$writememb"):
            return self._memory_task(call, name, site)
        if name.startswith(("$sformat", "$swrite")):
            return self._text_task(call, name, site)
        args: list[n.Expr | None] = []
        if name == "$printtimescale":
            return [self._print_scale(call, site)]
        if name in DISPLAY | FILE_DISPLAY or name in ("$info", "$warning", "$error", "$fatal"):
            behind = int(name in FILE_DISPLAY or name == "$fatal")  # what is no value to print stands before the format
            check_formats(call.args[behind:], self.context.diagnostics)
            args = self.print_arguments(call.args)
        else:
            args = [None if arg is None else self.expr(arg) for arg in call.args]
        return [n.SysTask(site, name, tuple(args), self.scope.prefix)]

    def _print_scale(self, call: ast.Call, site: int) -> n.Stmt:
        """The scale of this module, or of the instance that is named (17.3.1)."""
        scale, name = self.scale, "%m"
        if call.args and call.args[0] is not None:
            found = self.entity_of(call.args[0])
            if not isinstance(found, InstanceName):
                raise self.error(
                    call.args[0].pos,
                    f"$printtimescale takes the name of an instance; {self.words(call.args[0])} is none (17.3.1)",
                    "operand-type",
                )
            scale, way = found.elaborator.scale, found.name.replace("|", ".")
            name = way[1:] if way.startswith("/") else f"%m.{way}"
        args = (n.TextConst(TEXT, name.encode()), n.Const(INTEGER, -scale.unit), n.Const(INTEGER, -scale.precision))
        return n.SysTask(site, "$printtimescale", args, "")

    def _job_queue(self, call: ast.Call, name: str, site: int) -> list[n.Stmt]:
        """Stochastic analysis (IEEE 1364-2005 17.6): the last argument takes the status, those before it what the queue tells,
        which stay as they are where it tells nothing."""
        given = [self.for_target(self.argument(call, k), _LONG) for k in range(JOB_QUEUES[name])]
        if name != "$q_initialize":
            given.append(self.expr(ast.Call(call.pos, ast.Name(call.pos, "$time"), [])))
        told = {"$q_remove": ("q_job", "q_inform"), "$q_exam": ("q_value",)}.get(name, ())
        places = [self.argument(call, JOB_QUEUES[name] + k) for k in range(len(told) + 1)]
        status = self.local(INTEGER, call.pos)
        found: list[n.Stmt] = []
        for place, what in zip(places, told, strict=False):
            found += self.store_number(site, place, n.SysCall(_LONG, what, (), call.pos))
        done = n.Binary(BIT, "==", n.Ref(INTEGER, status), n.Const(INTEGER, 0))
        return [
            n.Assign(site, (whole(status),), n.SysCall(INTEGER, name[1:], tuple(given), call.pos)),
            *([n.If(site, done, found, [])] if found else []),
            *self.store_number(site, places[-1], n.Ref(INTEGER, status)),
        ]

    def _logic_array(self, call: ast.Call, name: str) -> list[n.Stmt]:
        memory, inputs, outputs = (self.argument(call, k) for k in range(3))
        s = self.selected(memory)
        if s.signal is None or len(s.dims) != 1 or s.element is not None or not s.shape.packed:
            raise self.error(call.pos, f"{name} takes a memory: an array of vectors with one dimension", "operand-type")
        rows, columns = span(*s.dims[0]), span(*s.shape.packed[0])
        sizes = (self.vector_type(self.shape(inputs), inputs).width, self.vector_type(self.shape(outputs), outputs).width)
        if sizes != (len(columns), len(rows)):
            message = f"{name}: a memory of {len(rows)} words of {len(columns)} bits takes as many outputs and inputs, not "
            raise self.error(call.pos, f"{message}{sizes[1]} and {sizes[0]} (17.5)", "arguments")
        return self.statement(logic_array(call, name, memory, rows, columns, inputs, outputs))

    def _text_task(self, call: ast.Call, name: str, site: int) -> list[n.Stmt]:
        """$swrite and $sformat put what they would print into their first argument (IEEE 1364-2005 17.2.3)."""
        target = self.argument(call, 0)
        shape = self.shape_of(target)
        radix = name.removeprefix("$swrite").removeprefix("$sformat")
        if name == "$sformat":
            self.argument(call, 1)
        made = self.formatted(call.args[1:], call.pos, radix, first_is_format=name == "$sformat")
        if not isinstance(shape.type, Text):
            made = n.SysCall(self.vector_type(shape.type, target), "$text_into", (made,), call.pos)
        return self.store(site, target, made)

    def _annotation(self, call: ast.Call) -> None:
        """$sdf_annotate(file, instance, configuration, log, which, factors, kind of factors): it takes effect before the run."""

        def text(index: int) -> str:
            arg = call.args[index] if index < len(call.args) else None
            return arg.value.decode("utf-8", "replace") if isinstance(arg, ast.StringLiteral) else ""

        if not text(0):
            raise self.error(call.pos, "the file of $sdf_annotate is a string that is known before the run", "sdf")
        path: tuple[str, ...] = ()
        instance = call.args[1] if len(call.args) > 1 else None
        if instance is not None:
            path = tuple(p for p in self.hierarchical_path(instance).split("|") if p)
            if path and path[0] not in ("^",) and not path[0].startswith("/") and len(path) == 1:
                path = (path[0],)
        choice = {"MINIMUM": 0, "MAXIMUM": 2}.get(text(4).upper(), 1)
        parts = (text(5) or "1.0:1.0:1.0").split(":")
        try:
            factors = tuple(float(p) for p in parts)
        except ValueError:
            factors = ()
        if len(factors) != 3:
            raise self.error(call.pos, 'the factors of $sdf_annotate are three numbers, such as "1.0:1.0:1.0"', "sdf")
        kind = text(6).upper()
        choice = {"FROM_MINIMUM": 0, "FROM_TYPICAL": 1, "FROM_MAXIMUM": 2}.get(kind, choice)
        self.context.annotations.append(Annotation(self.unit, path, text(0), choice, (factors[0], factors[1], factors[2])))

    def _dump(self, call: ast.Call, name: str, site: int) -> n.Stmt:
        """The $dump tasks (18.1). What $dumpvars names is handed on as text: "/path" from the top, else from this instance."""
        if name == "$dumpports":
            return self._dump_ports(call, site)
        if name != "$dumpvars":
            args = tuple(self.expr(a) for a in call.args if a is not None)
            return n.SysTask(site, name, args, self.scope.prefix)
        level = self.constant_int(self.argument(call, 0), "the number of levels") if call.args else 0
        lines = ["vars", str(level)]
        for arg in call.args[1:]:
            if arg is not None:
                lines.append(self.hierarchical_path(arg))
        return n.SysTask(site, name, (n.TextConst(TEXT, "\n".join(lines).encode()),), self.scope.prefix)

    def _dump_ports(self, call: ast.Call, site: int) -> n.Stmt:
        """$dumpports (18.3.1): modules and the file, by default this module. What they are called is handed on as for $dumpvars."""
        given = [a for a in call.args if a is not None]
        entities = [self.resolve_scope(a)[0] if isinstance(a, (ast.Name, ast.Member)) else None for a in given]
        is_scope = [isinstance(e, (InstanceName, UnitRoot)) for e in entities]
        files = [a for a, scope in zip(given, is_scope, strict=True) if not scope]
        if len(files) > 1 or (files and is_scope[-1]):
            raise self.error(
                files[0].pos,
                "$dumpports takes modules and then one file (18.3.1)",
                "operand-type",
            )
        scopes = "\n".join(self.hierarchical_path(a) for a, scope in zip(given, is_scope, strict=True) if scope)
        file = self.expr(files[0]) if files else None
        return n.SysTask(site, "$dumpports", (n.TextConst(TEXT, scopes.encode()), file), self.scope.prefix)

    def _assertions_in(self, e: ast.Expr) -> str:
        """The way to a scope, or to an assertion by its label."""
        around = self.entity_of(e.base) if isinstance(e, ast.Member) else None
        if isinstance(e, ast.Member) and isinstance(around, InstanceName) and _labelled(around.elaborator.module.items, e.name):
            return f"{self.hierarchical_path(e.base)}|{e.name}"
        if isinstance(e, ast.Name) and _labelled(self.module.items, e.name):
            return e.name
        return self.hierarchical_path(e)

    def entity_of(self, e: ast.Expr) -> object | None:
        raise NotImplementedError

    def hierarchical_path(self, e: ast.Expr) -> str:
        raise NotImplementedError

    def resolve_scope(self, e: ast.Expr) -> tuple[object, list[ast.Expr]]:
        raise NotImplementedError

    def _memory_task(self, call: ast.Call, name: str, site: int) -> list[n.Stmt]:
        """$readmemb and its like (21.4). An array that is no signal as a whole is copied to one, and back after reading."""
        file = self.expr(self.argument(call, 0))
        tree = self.argument(call, 1)
        s = self.selected(tree)
        if not s.dims:
            raise self.error(call.pos, f"{name} fills a memory: an array whose size is declared", "operand-type")
        rest = [self.expr(a) for a in call.args[2:] if a is not None]
        memory, before, after = s.signal, list[n.Stmt](), list[n.Stmt]()
        if memory is None or s.element is not None or memory.kind == "local":
            held = ast.Name(tree.pos, f"memory {len(self.unit.signals)}")
            memory = self.signal(self.scope, held.name, s.shape, [], "var", tree.pos)
            memory.implicit = True
            before = self.statement(ast.Assign(call.pos, held, tree, False))
            if name.startswith("$read"):
                after = self.statement(ast.Assign(call.pos, tree, held, False))
        place = n.SysCall(BIT, "target", (n.LRef(memory, None, None, s.width),), call.pos)
        return [*before, n.SysTask(site, name, (file, place, *rest), self.scope.prefix), *after]


def _labelled(tree: object, label: str) -> bool:
    """Whether an assertion in it has that label."""
    return any(isinstance(x, ast.Assert) and x.label == label for x in ast.within(tree))
