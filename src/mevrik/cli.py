"""The command line. Standard output belongs to the simulated program; what the simulator says goes to standard error."""

from __future__ import annotations

import argparse
import gc
import os
import sys
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from mevrik import __version__
from mevrik.design.time import TimeError, parse_time
from mevrik.lang.analysis import Options, analyse
from mevrik.lang.diagnostics import Diagnostic

if TYPE_CHECKING:
    from mevrik.engine.run import RunOptions

EXIT_DIFFERS, EXIT_INPUT = 1, 2


def _say(text: str) -> None:
    print(text, file=sys.stderr, flush=True)


def _options(arguments: argparse.Namespace) -> Options:
    defines: dict[str, str] = {}
    for item in arguments.define:
        name, _, value = item.partition("=")
        defines[name] = value
    return Options([Path(d) for d in arguments.include], defines, arguments.std or "")


def _parameters(arguments: argparse.Namespace) -> dict[str, int | str] | None:
    """Whole numbers as such; anything else as its text."""
    found: dict[str, int | str] = {}
    for item in arguments.param:
        name, equals, value = item.partition("=")
        if not name or not equals:
            _say(f"mevrik: --param {item}: give NAME=VALUE, such as --param WIDTH=8")
            return None
        try:
            found[name] = int(value, 0)
        except ValueError:
            found[name] = value
    return found


def _files(arguments: argparse.Namespace) -> list[Path]:
    """Files as given; a folder stands for the HDL files in it."""
    from mevrik.project.files import hdl_files

    found: list[Path] = []
    for name in arguments.files:
        path = Path(name)
        found += hdl_files(path) if path.is_dir() else [path]
    return found


def _show(diagnostics: Sequence[Diagnostic]) -> None:
    for d in diagnostics:
        _say(d.render())


def run(arguments: argparse.Namespace) -> int:
    """`mevrik run`: analyse, elaborate and run in a process of its own."""
    from mevrik.engine.job import Died, Job

    files = _files(arguments)
    if not files:
        _say(f"mevrik: there is no HDL file in {' '.join(arguments.files)}; sources end in .v, .sv, .vhd or .vhdl")
        return EXIT_INPUT
    parameters = _parameters(arguments)
    if parameters is None:
        return EXIT_INPUT
    job = Job(_run_job, files, _options(arguments), arguments, parameters)
    status = 0
    try:
        for event in job.events():
            if isinstance(event, int):
                status = event
            elif isinstance(event, Died):
                _say(f"mevrik: the simulation died: {event.reason}")
                status = 1
    except KeyboardInterrupt:
        job.send("cancel")
        for event in job.events():
            if isinstance(event, int):
                status = event
        _say("mevrik: cancelled; what was printed and recorded up to here is kept")
        status = 130
    return status


def _run_job(
    channel: object, files: list[Path], options: Options, arguments: argparse.Namespace, parameters: dict[str, int | str]
) -> None:
    from mevrik.engine.job import Channel

    assert isinstance(channel, Channel)
    channel.send(_run_here(channel, files, options, arguments, parameters))


def _run_here(
    channel: object, files: list[Path], options: Options, arguments: argparse.Namespace, parameters: dict[str, int | str]
) -> int:
    from mevrik.design.time import show_time
    from mevrik.engine.job import Channel
    from mevrik.engine.layout import LayoutError
    from mevrik.engine.run import Message, Run
    from mevrik.engine.simulation import FOREVER

    gc.disable()  # nothing of what is read and elaborated is given up before the end of this process
    analysis = analyse(files, options)
    design = analysis.elaborate(arguments.top, parameters)
    _show(analysis.diagnostics.sorted())
    if design is None:
        return EXIT_INPUT
    tick = design.tick_exp

    def message(m: Message) -> None:
        _say(f"{m.file}:{m.line}:{m.column}: {m.severity}: {m.text} (at {show_time(m.time, tick)})")

    record_path = Path(arguments.vcd + ".run") if arguments.vcd else None
    record = arguments.record or ("all" if arguments.vcd else "none")
    if arguments.record_file:
        record_path, record = Path(arguments.record_file), arguments.record or "all"
    try:
        limit = parse_time(arguments.limit, tick) if arguments.limit else FOREVER
        job = Run(design, analysis.sources, _run_options(arguments, limit, record, record_path), message)
    except (LayoutError, TimeError) as error:
        place = getattr(error, "place", "")
        _say(f"{place}: error: {error} [unsupported]" if place else f"mevrik: {error}")
        return EXIT_INPUT
    except OSError as error:
        _say(f"mevrik: the run record can't be written: {error}")
        return EXIT_INPUT
    assert isinstance(channel, Channel)
    channel.on_command(lambda command: job.simulation.request("cancel"))
    outcome = job.finish(job.go())
    if outcome.ended == "stop":
        for place in outcome.places:
            _say(
                f"{place.file}:{place.line}:{place.column}: note: $stop suspends the simulation here (at {show_time(outcome.time, tick)})"
            )
    if outcome.ended == "error":
        place = outcome.places[0] if outcome.places else None
        where = f"{place.file}:{place.line}:{place.column}: " if place is not None else "mevrik: "
        _say(f"{where}error: {outcome.text} (at {show_time(outcome.time, tick)}) [run]")
        for other in outcome.places[1:4]:
            _say(f"{other.file}:{other.line}: note: also at work here: {other.text.strip()}")
    if arguments.vcd and record_path is not None:
        from mevrik.waves.record import RunRecord
        from mevrik.waves.vcd import write_vcd

        write_vcd(RunRecord(record_path), Path(arguments.vcd))
        if not arguments.record_file:
            record_path.unlink(missing_ok=True)
    return outcome.status


def _run_options(arguments: argparse.Namespace, limit: int, record: str, record_path: Path | None) -> RunOptions:
    from mevrik.engine.run import RunOptions

    root = None if arguments.allow_files else Path.cwd()
    order = arguments.seed if arguments.order == "shuffle" else 0
    return RunOptions(limit, record, record_path, tuple(arguments.plus), arguments.seed, root, order=order, start=arguments.start,
        metavalues=not arguments.no_metavalue_warnings,
    )  # fmt: skip


def lint(arguments: argparse.Namespace) -> int:
    """`mevrik lint`: analyse and elaborate only."""
    files = _files(arguments)
    if not files:
        _say(f"mevrik: there is no HDL file in {' '.join(arguments.files)}; sources end in .v, .sv, .vhd or .vhdl")
        return EXIT_INPUT
    analysis = analyse(files, _options(arguments))
    if not analysis.diagnostics.failed:
        tops = [arguments.top] if arguments.top else analysis.tops()
        for top in tops:
            analysis.elaborate(top)
    found = analysis.diagnostics.sorted()
    if arguments.json:
        import json

        print(json.dumps([d.as_dict() for d in found], indent=1))
    else:
        _show(found)
    return EXIT_INPUT if analysis.diagnostics.failed else 0


def check(arguments: argparse.Namespace) -> int:
    """`mevrik check`: every check of a project."""
    from mevrik.project.check import check_command

    return check_command(Path(arguments.folder), arguments.json_file, arguments.junit_file, arguments.orders)


def compare(arguments: argparse.Namespace) -> int:
    """`mevrik compare`: a run record and a capture."""
    from mevrik.project.check import compare_command

    channel_map = Path(arguments.map_file) if arguments.map_file else None
    return compare_command(Path(arguments.record), Path(arguments.capture), channel_map, arguments.scope, arguments.tolerance)


def desktop(arguments: argparse.Namespace) -> int:
    """`mevrik`, `mevrik open` and `mevrik demo`."""
    folder = getattr(arguments, "folder", None)
    if not (os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY") or os.environ.get("QT_QPA_PLATFORM")):
        _say("mevrik: there is no display to open a window on; set DISPLAY, or use 'mevrik run' and 'mevrik check'")
        return 1
    if arguments.command == "demo":
        from mevrik.demo import fresh_copy

        folder = str(fresh_copy())
    from mevrik.desktop.app import start

    return start(Path(folder) if folder else None)


def _source_arguments(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("files", nargs="+", metavar="FILE", help="HDL files, in any order; a folder stands for those in it")
    parser.add_argument("--top", metavar="NAME", help="the module to start from")
    parser.add_argument("-I", dest="include", action="append", default=[], metavar="DIR", help="a folder for `include")
    parser.add_argument("-D", dest="define", action="append", default=[], metavar="NAME[=VALUE]", help="a macro")
    parser.add_argument("--std", choices=("1364-2005", "1800-2017"), help="the standard to read all files by")


def parser() -> argparse.ArgumentParser:
    top = argparse.ArgumentParser(prog="mevrik", description="Do the four accounts of a digital design agree?")
    top.add_argument("--version", action="version", version=f"mevrik {__version__}")
    commands = top.add_subparsers(dest="command", metavar="COMMAND")

    p = commands.add_parser("run", help="simulate; prints what the program prints")
    _source_arguments(p)
    p.add_argument("--param", action="append", default=[], metavar="NAME=VALUE", help="a parameter of the top")
    p.add_argument("--plus", action="append", default=[], metavar="ARG", help="a plusarg, without the plus")
    p.add_argument("--for", dest="limit", metavar="TIME", help="stop at this time, such as 10us")
    p.add_argument("--record", choices=("none", "ports", "all"), help="what to keep of the run")
    p.add_argument("--record-file", metavar="FILE", help="where to keep it")
    p.add_argument("--vcd", metavar="FILE", help="write a VCD file")
    p.add_argument("--seed", type=int, default=1, metavar="N", help="seed of $urandom, of a shuffled order and of random starts")
    p.add_argument("--order", choices=("source", "shuffle"), default="source", help="another legal order of simultaneous events")
    p.add_argument("--start", choices=("x", "random"), default="x", help="what variables hold before their first assignment")
    p.add_argument("--no-metavalue-warnings", action="store_true", help="the packages of VHDL don't warn of unknown operands")
    p.add_argument("--allow-files", action="store_true", help="let the program open files outside the current folder")
    p.set_defaults(act=run)

    p = commands.add_parser("lint", help="analyse and elaborate only")
    _source_arguments(p)
    p.add_argument("--json", action="store_true", help="findings as JSON on standard output")
    p.set_defaults(act=lint)

    p = commands.add_parser("check", help="run every check of a project; 0 only if all agree")
    p.add_argument("folder", nargs="?", default=".", metavar="FOLDER")
    p.add_argument("--json", dest="json_file", metavar="FILE", help="write the ledgers as JSON")
    p.add_argument(
        "--orders", type=int, default=0, metavar="K", help="also run K other orders of simultaneous events: a difference is a race"
    )
    p.add_argument("--junit", dest="junit_file", metavar="FILE", help="write a JUnit XML report")
    p.set_defaults(act=check)

    p = commands.add_parser("compare", help="a run record (from run --record-file) and a capture; 0 only if they agree")
    p.add_argument("record", metavar="RECORD")
    p.add_argument("capture", metavar="CAPTURE")
    p.add_argument("--map", dest="map_file", metavar="FILE", help="a CSV file of channel,port")
    p.add_argument("--scope", metavar="PATH", help="the instance whose signals were captured; else the top")
    p.add_argument("--tolerance", metavar="TIME", help="nothing is compared nearer to an edge than this")
    p.set_defaults(act=compare)

    p = commands.add_parser("open", help="start the desktop on a project folder")
    p.add_argument("folder", metavar="FOLDER")
    p.set_defaults(act=desktop)
    p = commands.add_parser("demo", help="start the desktop on a fresh copy of the demo project")
    p.set_defaults(act=desktop)
    top.set_defaults(act=desktop, command="")
    return top


def main(argv: Sequence[str] | None = None) -> int:
    arguments = parser().parse_args(argv)
    return int(arguments.act(arguments))


if __name__ == "__main__":
    sys.exit(main())
