"""The value of an expression that has to be known before the run: it is compiled and run on the spot."""

from __future__ import annotations

import ctypes as c
import mmap
from collections.abc import Callable
from typing import Any

from mevrik.design import typed as t
from mevrik.engine import abi
from mevrik.engine.compile import NativeCode, compile_text
from mevrik.engine.typed.function import Function, is_composite, is_real
from mevrik.engine.typed.module import Module, walk
from mevrik.engine.typed.statements import Statements

_keep: list[Any] = []  # code and memory stay as long as the process: the arena may point there


class Failed(Exception):
    """The evaluation stopped with an error; the message says which."""


class Unsound(Exception):
    """What the expression needs was not elaborated: there was a mistake in it, which was told."""


def evaluate(std: Any, size: int, constants: list[t.Object], e: t.Expr, sound: Callable[[], bool]) -> Any:
    """An int or float; for an array its bounds as a list of (left, right, down). `sound` is asked when all that it needs, such as
    the bodies of functions, has been elaborated. Raises Failed, Unsound."""
    needed = _needed(constants, e)
    if not sound():
        raise Unsound
    module = Module(std, 0)
    f = Function(module, None, None)
    low = Statements(f)
    for o in needed:
        if o.kind != "file":
            low.statement(t.Declare(0, o))
    dims = 0
    if is_composite(e.type):
        place = low.composite(e)
        for r in place.bounds or ():
            for x in (r.left, r.right, r.down):
                f.emit(f"store i64 {x}, ptr {f.gep('%frame', 8 * dims)}")
                dims += 1
    else:
        value = low.scalar(e)
        f.emit(f"store {'double' if is_real(e.type) else 'i64'} {value}, ptr %frame")
    f.ret("i32 0")
    module.parts.append(f.text("define i32 @evaluate(ptr %m, ptr %frame)"))
    native = NativeCode(compile_text(module.text(), 0))
    memory = mmap.mmap(-1, size + 4096)
    base = c.addressof(c.c_char.from_buffer(memory))
    out = (c.c_int64 * 16)()
    _keep.append((native, memory, out))
    lib = abi.library()
    error = lib.typed_evaluate(native.address("evaluate"), base, out)
    if error:
        raise Failed(c.string_at(error).decode("utf-8", "replace"))
    if dims:
        return [(out[k], out[k + 1], bool(out[k + 2])) for k in range(0, dims, 3)]
    if is_real(e.type):
        return c.c_double.from_buffer(out).value
    return int(out[0])


def _needed(constants: list[t.Object], e: t.Expr) -> list[t.Object]:
    """The constants that an expression and the functions it calls use, in order of declaration."""
    wanted: set[t.Object] = set()
    seen: set[t.Subprogram] = set()
    work: list[Any] = [e]
    known = set(constants)
    while work:
        for x in walk(work.pop()):
            if isinstance(x, t.Ref) and x.object in known and x.object not in wanted:
                wanted.add(x.object)
                if x.object.init is not None:
                    work.append(x.object.init)
            elif isinstance(x, t.Call) and x.sub not in seen and not x.sub.intrinsic:
                seen.add(x.sub)
                if x.sub.analyse is not None:
                    x.sub.analyse()
                work += [*x.sub.decls, *(x.sub.body or ())]
    return [o for o in constants if o in wanted]
