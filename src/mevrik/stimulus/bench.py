"""The testbench writer: a drive plan as a Verilog testbench, which runs like one written by hand."""

from __future__ import annotations

from decimal import Decimal
from pathlib import Path

from mevrik.design.ports import PortInfo
from mevrik.design.time import parse_seconds
from mevrik.stimulus.plan import TICK, Clock, Hold, Pattern, Plan, Sweep

INSTANCE, MODEL = "dut", "expected"
_INLINE_ROWS = 512


def bench_name(module: str) -> str:
    return f"{module}_bench"


def model_name(module: str) -> str:
    return f"{module}_expected"


def _range(p: PortInfo) -> str:
    return f"[{p.msb}:{p.lsb}] " if p.width > 1 or (p.msb, p.lsb) != (0, 0) else ""


def _ns(time: str | Decimal) -> str:
    """A time text, or seconds, as nanoseconds with picosecond precision, for `timescale 1ns/1ps."""
    seconds = parse_seconds(time) if isinstance(time, str) else time
    return f"{(seconds / Decimal('1e-9')).quantize(Decimal('0.001')).normalize():f}"


def write_model(module: str, ports: list[PortInfo], expressions: dict[str, str]) -> str:
    """A module with an assignment for each expected output: the expressions as a design of their own."""
    inputs = [p for p in ports if p.direction != "output"]
    outputs = [p for p in ports if p.direction == "output" and p.name in expressions]
    heads = [f"input {_range(p)}{p.name}" for p in inputs] + [f"output {_range(p)}{p.name}" for p in outputs]
    body = [f"  assign {p.name} = {expressions[p.name]};" for p in outputs]
    return "\n".join([f"module {model_name(module)} ({', '.join(heads)});", *body, "endmodule", ""])


def write_bench(
    module: str, ports: list[PortInfo], plan: Plan, rows_file: Path | None = None, expressions: dict[str, str] | None = None,
    parameters: dict[str, int] | None = None,
) -> str:  # fmt: skip
    """The text of the testbench. Long lists of rows are written to `rows_file`, which the testbench reads."""
    inputs = [p for p in ports if p.direction != "output"]
    outputs = [p for p in ports if p.direction == "output"]
    lines = [
        f"// Drives {module} by its drive plan. Written by Mevrik; edit the plan, not this file.",
        "`timescale 1ns/1ps",
        f"module {bench_name(module)};",
        *(f"  reg  {_range(p)}{p.name};" for p in inputs),
        *(f"  wire {_range(p)}{p.name};" for p in outputs),
        "",
        f"  {module} {_overrides(parameters)}{INSTANCE} ({', '.join(f'.{p.name}({p.name})' for p in ports)});",
    ]
    if expressions:
        kept = [p for p in ports if p.direction != "output" or p.name in expressions]
        joined = ", ".join(f".{p.name}({p.name if p.direction != 'output' else ''})" for p in kept)
        lines.append(f"  {model_name(module)} {MODEL} ({joined});")
    lines.append("")
    if plan.walks_rows:
        lines += _rows(inputs, plan, rows_file)
    else:
        for p in inputs:
            lines += _lane(p, plan.lanes.get(p.name, [Hold(0)]))
        lines.append(f"  initial #{_ns(plan.length or '1us')} $finish;")
    return "\n".join([*lines, "endmodule", ""])


def _overrides(parameters: dict[str, int] | None) -> str:
    return f"#({', '.join(f'.{k}({v})' for k, v in parameters.items())}) " if parameters else ""


def _rows(inputs: list[PortInfo], plan: Plan, rows_file: Path | None) -> list[str]:
    joined = "{" + ", ".join(p.name for p in inputs) + "}"
    bits = sum(p.width for p in inputs)
    step = _ns(plan.step)
    if not inputs:
        return [f"  initial #{step} $finish;"]
    if plan.rows is None:
        return [
            "  integer row;",
            "  initial begin",
            f"    for (row = 0; row < {1 << bits}; row = row + 1) begin",
            f"      {joined} = row;",
            f"      #{step};",
            "    end",
            "    $finish;",
            "  end",
        ]
    if len(plan.rows) <= _INLINE_ROWS or rows_file is None:
        applied = [f"    {joined} = {bits}'h{r:x}; #{step};" for r in plan.rows]
        return ["  initial begin", *applied, "    $finish;", "  end"]
    rows_file.parent.mkdir(parents=True, exist_ok=True)
    rows_file.write_text("\n".join(f"{r:x}" for r in plan.rows) + "\n")
    count = len(plan.rows)
    return [
        f"  reg [{bits - 1}:0] rows [0:{count - 1}];",
        "  integer row;",
        "  initial begin",
        f'    $readmemh("{rows_file}", rows);',
        f"    for (row = 0; row < {count}; row = row + 1) begin",
        f"      {joined} = rows[row];",
        f"      #{step};",
        "    end",
        "    $finish;",
        "  end",
    ]


def _lane(p: PortInfo, patterns: list[Pattern]) -> list[str]:
    """One process a lane: its patterns one after the other, the last one to the end."""
    body: list[str] = []
    for pattern in patterns:
        match pattern:
            case Hold(value, duration):
                body.append(f"    {p.name} = {value};")
                if duration is not None:
                    body.append(f"    #{_ns(duration)};")
            case Clock(period, high, start):
                whole = parse_seconds(period)
                up = (whole * Decimal(str(high)) / TICK).to_integral_value() * TICK
                low, top = _ns(whole - up), _ns(up)
                body.append(f"    {p.name} = 0; #{_ns(start)};")
                body.append(f"    forever begin #{low} {p.name} = 1; #{top} {p.name} = 0; end")
            case Sweep(first, last, every):
                step = "+ 1" if last >= first else "- 1"
                body.append(f"    {p.name} = {first};")
                body.append(f"    forever #{_ns(every)} {p.name} = ({p.name} == {last}) ? {first} : {p.name} {step};")
    return ["  initial begin", *body, "  end"]
