"""Object code that is kept: loaded by the kernel itself, refused where it needs more, never trusted."""

from __future__ import annotations

import ctypes as c
import fcntl
import os
import struct
import subprocess
import sys
import time
from pathlib import Path

import pytest

from mevrik import kept
from mevrik.engine import afterwards
from mevrik.engine.abi import Block, Driver, KernelState, Switch, library
from mevrik.engine.compile import NativeCode, cached, compile_text
from tests.conftest import mevrik

TEXT = """
@table = private unnamed_addr constant [3 x i64] [i64 7, i64 11, i64 13]
@count = internal global i64 40
declare double @fmod(double, double)

define i64 @at(i64 %k) {
  %p = getelementptr [3 x i64], ptr @table, i64 0, i64 %k
  %v = load i64, ptr %p
  ret i64 %v
}

define i64 @next() {
  %v = load i64, ptr @count
  %n = add i64 %v, 1
  store i64 %n, ptr @count
  ret i64 %n
}

define double @rest(double %a, double %b) {
  %r = call double @fmod(double %a, double %b)
  ret double %r
}

define i64 @twice(i64 %k) {
  %v = call i64 @at(i64 %k)
  %d = shl i64 %v, 1
  ret i64 %d
}
"""


@pytest.mark.parametrize("level", [0, 2])
def test_constants_variables_calls_within_and_to_libraries(level: int) -> None:
    code = NativeCode(compile_text(TEXT, level, store=False))
    number = c.CFUNCTYPE(c.c_int64, c.c_int64)
    assert [number(code.address("at"))(k) for k in range(3)] == [7, 11, 13]
    assert number(code.address("twice"))(1) == 22
    following = c.CFUNCTYPE(c.c_int64)(code.address("next"))
    assert [following(), following()] == [41, 42]
    assert c.CFUNCTYPE(c.c_double, c.c_double, c.c_double)(code.address("rest"))(7.5, 2.0) == 1.5
    assert code.address("missing") == 0


def test_a_second_copy_has_its_own_variables() -> None:
    data = compile_text(TEXT, 0, store=False)
    codes = [NativeCode(data), NativeCode(data)]
    one, two = (c.CFUNCTYPE(c.c_int64)(code.address("next")) for code in codes)
    assert [one(), one(), two()] == [41, 42, 41]


@pytest.mark.skipif(sys.platform != "linux" or struct.calcsize("P") != 8, reason="another form of object code")
def test_what_it_can_not_load_is_refused() -> None:
    lib = library()
    data = compile_text(TEXT, 0, store=False)
    assert not lib.code_load(b"no object", 9)
    assert not lib.code_load(data[:200], 200)  # its sections lie behind the end
    unknown = compile_text(TEXT.replace("fmod", "no_such_function"), 0, store=False)
    assert not lib.code_load(unknown, len(unknown))


def test_kept_code_needs_no_compiler(tmp_path: Path) -> None:
    (tmp_path / "code").write_bytes(compile_text(TEXT, 0, store=False))
    watch = "import sys; from mevrik.engine.compile import NativeCode; code = NativeCode(open(sys.argv[1], 'rb').read()); "
    watch += "print(code.address('at') > 0, any(name.startswith('llvmlite') for name in sys.modules))"
    done = subprocess.run([sys.executable, "-c", watch, tmp_path / "code"], capture_output=True, text=True)
    assert done.stdout.split() == ["True", "False"], done.stderr


def test_better_code_is_there_for_the_next_run(tmp_path: Path) -> None:
    """A run that ended on quick code leaves the best one to be made; a short one does not."""
    long, short = tmp_path / "long", tmp_path / "short"
    text = (
        "module tb; integer k, s; initial begin s = 0; for (k = 0; k < %d; k = k + 1) s = s + (k ^ s); $display(s); end endmodule\n"
    )
    for place, rounds in ((short, 10), (long, 60_000_000)):
        (tmp_path / "tb.v").write_text(text % rounds)
        first = mevrik("run", "tb.v", cwd=tmp_path, XDG_CACHE_HOME=str(place))
        assert first.status == 0
    code = long / "mevrik" / "code"
    end = time.monotonic() + 60
    while len([p for p in code.iterdir() if not p.suffix]) < 2 and time.monotonic() < end:
        time.sleep(0.1)
    assert len([p for p in code.iterdir() if not p.suffix]) == 2, "the quick code and the best one"
    while any(p.suffix == ".ll" for p in code.iterdir()) and time.monotonic() < end:
        time.sleep(0.1)
    assert not [p for p in code.iterdir() if p.suffix == ".ll"]
    assert len(list((short / "mevrik" / "code").iterdir())) == 1
    again = mevrik("run", "tb.v", cwd=tmp_path, XDG_CACHE_HOME=str(long))
    assert again.out == first.out


def test_only_one_makes_better_code(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """While another process is at it, nothing is made, and what was left for it is removed."""
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path))
    folder = kept.folder("code")
    folder.mkdir(parents=True)
    left = folder / "left.ll"
    left.write_text(TEXT)
    with open(folder / "afterwards.lock", "w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        afterwards.main([str(left)])
    assert cached(TEXT, 2) is None and not left.exists()
    left.write_text("this is no code")
    afterwards.main([str(left)])
    assert not left.exists()
    left.write_text(TEXT)
    afterwards.main([str(left)])
    assert cached(TEXT, 2) is not None and not left.exists()


def test_a_run_imports_only_what_it_needs(tmp_path: Path) -> None:
    """Each of these takes longer to import than a small design to run."""
    (tmp_path / "tb.v").write_text('module tb; initial $display("up"); endmodule\n')
    command = [sys.executable, "-X", "importtime", "-m", "mevrik", "run", "tb.v", "--record", "all", "--record-file", "tb.run"]
    for _ in range(2):  # the second time the code is kept
        done = subprocess.run(
            command, capture_output=True, text=True, cwd=tmp_path, env={**os.environ, "XDG_CACHE_HOME": str(tmp_path)}
        )
        assert done.stdout == "up\n"
    imported = {line.rsplit("|", 1)[-1].strip() for line in done.stderr.splitlines()}
    assert "mevrik.engine.simulation" in imported
    assert not imported & {"numpy", "llvmlite.binding", "PySide6", "multiprocessing", "tomlkit", "subprocess"}


@pytest.mark.parametrize(
    ("name", "mirror"), (("kernel", KernelState), ("block", Block), ("driver", Driver), ("switch", Switch)), ids=lambda x: str(x)
)
def test_structures_are_as_large_in_python_as_in_the_kernel(name: str, mirror: type[c.Structure]) -> None:
    assert c.c_uint32.in_dll(library(), f"{name}_size").value == c.sizeof(mirror)
