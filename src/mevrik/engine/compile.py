"""LLVM: IR text in, native code out. Unoptimised at once; optimised in the background or afterwards; both kept on disk by content."""

from __future__ import annotations

import hashlib
import threading
from functools import cache
from importlib.util import find_spec
from pathlib import Path
from typing import TYPE_CHECKING, Any

from mevrik import kept
from mevrik.engine.abi import library, library_path

if TYPE_CHECKING:  # it takes a quarter of a start, and is needed only for code that is not kept
    import llvmlite.binding as llvm

MOST = 400  # files of object code in the cache

_ready = False
_lock = threading.Lock()
# What pays for code of this kind: promote stack slots, fold the plane logic, tidy the branches, share loads; in the functions of clock
# edges also follow the marks from where they are set to where they are tested.
_PASSES = ("sroa", "instruction_combine", "simplify_cfg", "new_gvn", "simplify_cfg")
_EDGE_PASSES = ("jump_threading", "instruction_combine", "simplify_cfg", "new_gvn", "dead_store_elimination", "simplify_cfg")


# Processors that take long for a jump which ends at a multiple of 32 bytes, or goes across it: no jump is to lie so.
_SLOW_AT_BOUNDARIES = ("skylake", "skylake-avx512", "cascadelake")


class CodeError(Exception):
    """The generated code was refused: a fault of ours, never of the source."""


def _llvm() -> Any:
    """LLVM, ready to compile for this machine."""
    global _ready
    import llvmlite.binding

    with _lock:
        if not _ready:
            if llvmlite.binding.get_host_cpu_name() in _SLOW_AT_BOUNDARIES:
                llvmlite.binding.set_option("", "-x86-branches-within-32B-boundaries")
            llvmlite.binding.initialize_native_target()
            llvmlite.binding.initialize_native_asmprinter()
            llvmlite.binding.load_library_permanently(str(library_path()))
            _ready = True
    return llvmlite.binding


def _target_machine(level: int) -> llvm.TargetMachine:
    llvm = _llvm()
    target = llvm.Target.from_default_triple()
    return target.create_target_machine(
        cpu=llvm.get_host_cpu_name(), features=llvm.get_host_cpu_features().flatten(), opt=level, jit=True, codemodel="jitdefault"
    )


@cache
def _seal() -> str:
    """What code depends on beside its text: the compiler and this processor."""
    spec = find_spec("llvmlite")
    compiler = spec.origin if spec is not None and spec.origin is not None else ""
    changed = Path(compiler).stat().st_mtime_ns if compiler else 0
    try:
        with open("/proc/cpuinfo", encoding="latin-1") as processor:
            about = [line for line in iter(processor.readline, "\n") if line.startswith(("model name", "flags", "Features", "CPU"))]
    except OSError:
        about = []
    return f"{compiler}|{changed}|{about}|{_PASSES}|{_EDGE_PASSES}|{_SLOW_AT_BOUNDARIES}|"


def _key(text: str, level: int) -> str:
    return hashlib.sha256(f"{_seal()}{level}|{text}".encode()).hexdigest()


def code_file(text: str, level: int) -> Path:
    """Where the object code for a text is kept."""
    return kept.folder("code") / _key(text, level)


class NativeCode:
    """A loaded module of native code. Where the kernel can load an object (kernel/code.c), no compiler is needed."""

    def __init__(self, data: bytes) -> None:
        self._data = data
        self._lib = library()
        self._object = self._lib.code_load(data, len(data))
        if not self._object:
            llvm = _llvm()
            self._machine = _target_machine(0)
            self._engine = llvm.create_mcjit_compiler(llvm.parse_assembly(""), self._machine)
            self._engine.add_object_file(llvm.ObjectFileRef.from_data(data))
            self._engine.finalize_object()

    def address(self, name: str) -> int:
        if self._object:
            return int(self._lib.code_address(self._object, name.encode()) or 0)
        return int(self._engine.get_function_address(name))

    def __del__(self) -> None:
        if self._object:
            self._lib.code_free(self._object)


def cached(text: str, level: int) -> bytes | None:
    return kept.load(code_file(text, level))


def compile_text(text: str, level: int, store: bool = True) -> bytes:
    """Object code for IR text. `level` 0 compiles fastest, 2 makes the fastest code."""
    found = cached(text, level) if store else None
    if found is not None:
        return found
    llvm = _llvm()
    try:
        module = llvm.parse_assembly(text)
    except RuntimeError as error:
        raise CodeError(str(error)) from None
    machine = _target_machine(2 if level else 0)
    if level:
        _optimise(module, machine)
    data: bytes = machine.emit_object(module)
    if store:
        kept.keep(code_file(text, level), data, MOST)
    return data


def _optimise(module: llvm.ModuleRef, machine: llvm.TargetMachine) -> None:
    llvm = _llvm()
    options = llvm.create_pipeline_tuning_options()
    builder = llvm.create_pass_builder(machine, options)
    manager = llvm.create_new_module_pass_manager()
    manager.add_always_inliner_pass()
    functions, edges = llvm.create_new_function_pass_manager(), llvm.create_new_function_pass_manager()
    for passes, names in ((functions, _PASSES), (edges, _EDGE_PASSES)):
        for name in names:
            getattr(passes, f"add_{name}_pass")()
    manager.run(module, builder)
    for function in module.functions:
        if not function.is_declaration:
            functions.run(function, builder)
            if function.name.startswith("edge"):
                edges.run(function, builder)
