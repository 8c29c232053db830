"""How the function for an edge of a clock goes on with the next edge of its kind, if nothing else happens before it."""

from __future__ import annotations

from mevrik.engine.abi import KernelState

PARAMETERS = "i64 %stride, i64 %last"  # ticks to that edge; up to when it may go on


def next_edge(begin: str, done: str, also: str = "") -> str:
    """LLVM IR for the end of the function, whose parameters are also %m, the memory, and %k, the kernel's state. Goes to `begin` at the
    next edge, with the time in %p.then, or to `done`; `also` is done on the way. The edge between the two is counted, nobody has to know
    of it."""
    state = KernelState
    return f"""  %p.now = getelementptr i8, ptr %k, i64 {state.now.offset}
  %p.here = load i64, ptr %p.now
  %p.then = add i64 %p.here, %stride
  %p.near = icmp ule i64 %p.then, %last
  br i1 %p.near, label %p.ask, label %{done}
p.ask:
  %p.attention = getelementptr i8, ptr %k, i64 {state.attention.offset}
  %p.wanted = load volatile i32, ptr %p.attention
  %p.free = icmp eq i32 %p.wanted, 0
  br i1 %p.free, label %p.again, label %{done}
p.again:
  store i64 %p.then, ptr %p.now
  %p.delta = getelementptr i8, ptr %k, i64 {state.delta.offset}
  store i64 0, ptr %p.delta
  %p.counter = getelementptr i8, ptr %k, i64 {state.steps.offset}
  %p.steps = load i64, ptr %p.counter
  %p.more = add i64 %p.steps, 2
  store i64 %p.more, ptr %p.counter
{also}  br label %{begin}"""
