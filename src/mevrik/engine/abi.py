"""The kernel as Python sees it: its structures (mirrors of kernel/kernel.h) and functions."""

from __future__ import annotations

import ctypes as c
from functools import lru_cache
from pathlib import Path

MESSAGE_SINK = c.CFUNCTYPE(None, c.c_char_p, c.c_uint32, c.c_uint64, c.c_char_p)

DUMP_SINK = c.CFUNCTYPE(None, c.c_uint32, c.c_char_p)

ENDED_QUIET, ENDED_FINISH, ENDED_STOP, ENDED_LIMIT, ENDED_ERROR, ENDED_CANCEL, ENDED_PAUSE = range(7)


class Switch(c.Structure):
    _fields_ = [
        (name, c.c_uint32) for name in ("a", "a_bit", "b", "b_bit", "control", "control_bit", "active", "resistive", "one_way")
    ]


class Driver(c.Structure):
    _fields_ = [
        ("sig", c.c_uint32),
        ("low", c.c_uint32),
        ("width", c.c_uint32),
        ("site", c.c_uint32),
        ("strength0", c.c_uint8),
        ("strength1", c.c_uint8),
        ("alone", c.c_uint8),
        ("simple", c.c_uint8),
        ("bytes", c.c_uint32),
        ("generation", c.c_uint32),
        ("pending", c.c_uint32),
        ("offset", c.c_uint64),
        ("value", c.c_uint32),
        ("fan_first", c.c_uint32),
        ("fan_count", c.c_uint32),
        ("planes", c.c_uint8 * 4),
        ("joint", c.c_uint64),
    ]


class Lines:
    """Room for records that each fill lines of the cache, so that one is fetched at once."""

    LINE = 64

    def __init__(self, size: int, count: int) -> None:
        self._room = c.create_string_buffer(size * max(count, 1) + self.LINE)
        self.address = (c.addressof(self._room) + self.LINE - 1) // self.LINE * self.LINE

    def fill(self, records: list[bytes]) -> None:
        data = b"".join(records)
        c.memmove(self.address, data, len(data))


class BitFan(c.Structure):
    _fields_ = [("sig", c.c_uint32), ("bit", c.c_uint32), ("proc", c.c_uint32)]


class Scheduler(c.Structure):
    _fields_ = [
        ("head", c.c_uint64),
        ("tail", c.c_uint64),
        ("mask", c.c_uint64),
        ("ring_at", c.c_uint64),
        ("ring", c.c_uint32 * 64),
    ]


class KernelState(c.Structure):
    _fields_ = [
        ("mem", c.c_void_p),
        ("watch", c.c_void_p),
        ("sigs", c.c_void_p),
        ("fans", c.c_void_p),
        ("drivers", c.c_void_p),
        ("procs", c.c_void_p),
        ("fns", c.c_void_p),
        ("fns_next", c.c_void_p),
        ("commits", c.c_void_p),
        ("commits_next", c.c_void_p),
        ("applies", c.c_void_p),
        ("applies_next", c.c_void_p),
        ("edges", c.c_void_p),
        ("edges_next", c.c_void_p),
        ("typed_edges", c.c_void_p),
        ("typed_edges_next", c.c_void_p),
        ("scheduler", c.c_void_p),
        ("armed", c.c_void_p),
        ("active", c.c_void_p),
        ("sig_count", c.c_uint32),
        ("proc_count", c.c_uint32),
        ("proc_room", c.c_uint32),
        ("fn_count", c.c_uint32),
        ("attention", c.c_uint32),
        ("swap", c.c_uint32),
        ("cancel", c.c_uint32),
        ("pause", c.c_uint32),
        ("flush", c.c_uint32),
        ("heavy", c.c_uint32),
        ("beside", c.c_uint32),
        ("now", c.c_uint64),
        ("limit", c.c_uint64),
        ("delta", c.c_uint64),
        ("batches", c.c_uint64),
        ("delta_limit", c.c_uint64),
        ("loop_limit", c.c_uint64),
        ("loops", c.c_uint64),
        ("steps", c.c_uint64),
        ("changes", c.c_uint64),
        ("cur", c.c_uint32),
        ("ended", c.c_uint32),
        ("exit_status", c.c_int),
        ("inst_names", c.c_void_p),
        ("argv_plus", c.c_char_p),
        ("tick_exp", c.c_int),
        ("time_unit", c.c_int),
        ("time_precision", c.c_int),
        ("time_width", c.c_int),
        ("time_suffix", c.c_char * 64),
        ("error", c.c_char * 512),
        ("error_site", c.c_uint32),
        ("root", c.c_char_p),
        ("programs", c.c_uint32),
        ("inst_parents", c.c_void_p),
    ]


class Block(c.Structure):
    """A block of recorded changes, see kernel/record.c; `sig` 0xffffffff marks a moment up to which all is handed over."""

    _fields_ = [
        ("sig", c.c_uint32),
        ("count", c.c_uint32),
        ("room", c.c_uint32),
        ("row", c.c_uint32),
        ("rows", c.POINTER(c.c_uint64)),
        ("origin", c.c_void_p),
        ("unit", c.c_uint32),
        ("length", c.c_uint32),
        ("stored", c.c_uint32),
        ("planes", c.c_uint32),
        ("plain", c.c_uint32),
    ]


def library_path() -> Path:
    """The compiled kernel, built with the package."""
    found = sorted(Path(__file__).parent.glob("_kernel*.so"))
    if not found:
        raise RuntimeError("the simulation kernel is not built; run 'make demo' or 'pip install -e .' in the project folder")
    return found[0]


@lru_cache(maxsize=1)
def library() -> c.CDLL:
    lib = c.CDLL(str(library_path()))
    lib.k_open.restype = c.POINTER(KernelState)
    lib.k_open.argtypes = [c.c_void_p] * 3 + [c.c_uint32] + [c.c_void_p] * 2 + [c.c_uint32] * 2 + [c.c_void_p] * 3 + [c.c_uint64]
    lib.code_load.restype = lib.code_address.restype = c.c_void_p
    lib.code_load.argtypes = [c.c_char_p, c.c_uint64]
    lib.code_address.argtypes = [c.c_void_p, c.c_char_p]
    lib.code_free.argtypes = [c.c_void_p]
    lib.code_free.restype = None
    lib.k_process.argtypes = [c.c_uint32, c.c_uint32, c.c_uint64, c.c_uint64, c.c_uint32, c.c_uint32]
    lib.k_process.restype = None
    lib.k_switches.argtypes = [c.c_void_p, c.c_uint32]
    lib.k_switches.restype = None
    lib.k_join_all.argtypes = []
    lib.k_join_all.restype = None
    lib.k_dump_sink.argtypes = [DUMP_SINK]
    lib.k_dump_open.argtypes = [c.c_char_p, c.c_char_p, c.c_void_p, c.c_void_p, c.c_char_p, c.c_uint32]
    lib.k_dump_switch.argtypes = [c.c_uint32]
    lib.k_ports_sink.argtypes = [DUMP_SINK]
    lib.k_ports_open.argtypes = [c.c_char_p, c.c_char_p, c.c_void_p, c.c_uint32, c.c_uint32, c.c_uint32]
    lib.k_decay.argtypes = [c.c_uint32, c.c_uint64]
    lib.k_decay.restype = None
    lib.k_cells.argtypes = [c.c_void_p, c.c_void_p, c.c_uint32, c.c_uint32]
    lib.k_cells.restype = None
    lib.k_bit_fans.argtypes = [c.c_void_p, c.c_uint32]
    lib.k_bit_fans.restype = None
    lib.k_starts.restype = None
    lib.k_text.argtypes = [c.c_char_p, c.c_uint32]
    lib.k_text.restype = c.c_uint64
    lib.k_collect.argtypes = [c.c_void_p, c.c_uint32, c.c_uint64]
    lib.k_shuffle.argtypes = [c.c_uint64]
    lib.k_shuffle.restype = None
    lib.k_sample.argtypes = [c.c_uint32, c.c_uint32]
    lib.k_sample.restype = None
    lib.typed_evaluate.argtypes = [c.c_void_p, c.c_void_p, c.c_void_p]
    lib.typed_evaluate.restype = c.c_void_p
    lib.k_bridges.argtypes = [c.c_void_p, c.c_uint32]
    lib.k_bridges.restype = None
    lib.typed_begin.argtypes = [c.c_void_p, c.c_void_p, c.c_uint32]
    lib.typed_begin.restype = c.c_uint32
    lib.typed_open.argtypes = [
        c.c_void_p, c.c_void_p, c.c_uint32, c.c_void_p, c.c_uint32, c.c_void_p, c.c_void_p, c.c_void_p, c.c_uint32, c.c_void_p,
    ]  # fmt: skip
    lib.typed_open.restype = None
    lib.v_implicit.argtypes = [c.c_uint32, c.c_uint32, c.c_uint32, c.c_uint32, c.c_uint32, c.c_uint64]
    lib.v_keep_parts.argtypes = [c.c_uint32, c.POINTER(c.c_uint32), c.c_uint32]
    for name in ("typed_show", "typed_close_files", "v_implicit", "v_keep_parts"):
        getattr(lib, name).restype = None
    lib.k_clock.argtypes = [c.c_uint32, c.c_uint32, c.c_uint32, c.c_uint64]
    lib.k_clock.restype = None
    lib.k_run.argtypes = [c.c_uint64]
    lib.k_run.restype = c.c_uint32
    lib.k_message_sink.argtypes = [MESSAGE_SINK]
    lib.k_message_sink.restype = None
    lib.k_seed.argtypes = [c.c_uint64]
    lib.k_seed.restype = None
    lib.k_poke.argtypes = [c.c_uint32, c.c_uint32, c.c_void_p, c.c_void_p]
    lib.k_poke.restype = None
    lib.record_next.argtypes = [c.POINTER(Block)]
    lib.record_next.restype = c.c_uint32
    lib.record_release.argtypes = [c.POINTER(Block)]
    lib.record_pack.argtypes = [c.POINTER(Block), c.c_uint32, c.c_uint32, c.c_uint32, c.c_char_p, c.POINTER(c.c_uint64)]
    lib.record_pack.restype = c.c_uint64
    for name in (
        "record_open",
        "record_close",
        "record_flush",
        "record_release",
        "out_flush",
        "k_close_files",
        "k_dump_close",
        "k_dump_switch",
        "k_dump_sink",
        "k_ports_sink",
        "k_texts_begin",
        "k_collect",
        "k_ports_close",
    ):
        getattr(lib, name).restype = None
    return lib
