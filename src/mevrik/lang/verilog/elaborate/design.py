"""The elaboration of a whole design: which module is the top, then everything below it."""

from __future__ import annotations

from collections.abc import Mapping

from mevrik.design import nodes as n
from mevrik.design.types import REAL, Vec
from mevrik.design.unit import Design, InstanceDecl, Site
from mevrik.lang.diagnostics import Diagnostics, nearest
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.elaborate.classinfo import fill_variants
from mevrik.lang.verilog.elaborate.context import DEFAULT_SCALE, Abandon, Context, Foreign
from mevrik.lang.verilog.elaborate.defparams import PASSES, Upward, parameters_of, start_setting_tops
from mevrik.lang.verilog.elaborate.scope import Overrides
from mevrik.lang.verilog.elaborate.unit import UnitElaborator
from mevrik.lang.verilog.library import Library


def looks_like_testbench(module: ast.Module) -> bool:
    """A module without ports: nothing outside can drive it, so it drives itself."""
    return not module.ports


def _delay_words(library: Library) -> frozenset[str]:
    if not library.delay_files:
        return frozenset()
    from mevrik.lang.sdf.read import constructs

    return frozenset(word for file in library.delay_files for word in constructs(file))


def choose_top(library: Library, diagnostics: Diagnostics) -> str | None:
    """The one module that nothing instantiates; among several, the one testbench."""
    tops = library.tops()
    if not tops:
        if library.modules:
            first = next(iter(library.modules.values()))
            diagnostics.error(first.pos, "every module is instantiated by another, so there is no top; --top names one", "no-top")
        return None
    benches = [t for t in tops if looks_like_testbench(library.modules[t])]
    choices = benches or tops
    if len(choices) > 1:
        pos = library.modules[choices[0]].pos
        names = ", ".join(f"'{c}'" for c in choices)
        diagnostics.error(pos, f"several modules could be the top: {names}; --top names one", "several-tops")
        return None
    return choices[0]


def finish_other_tops(context: Context, top: str) -> None:
    """What stands in modules that are named but instantiated by nobody; in them others may be named."""
    done = {top}
    while waiting := [name for name in context.tops if name not in done]:
        for name in waiting:
            done.add(name)
            context.tops[name].finish()


def _complete(context: Context) -> None:
    """What could only be said when all classes are there: static properties of those that came late, and virtual methods."""
    while True:
        fill_variants(context)
        if context.late:
            context.late.pop().initial_values()
        elif context.virtual_tasks:  # their forms for arguments by reference may call others
            waiting, context.virtual_tasks = context.virtual_tasks, []
            for choose in waiting:
                choose()
        else:
            break


Given = Mapping[str, int | str | float | bytes]


def _constant(value: int | str | float | bytes) -> n.Expr:
    """A parameter's value from outside the sources: a whole number, a real one, or the text of a string; a string may stand for either."""
    if isinstance(value, int):
        width = max(32, value.bit_length() + 1)
        return n.Const(Vec(width, True), value & ((1 << width) - 1))
    if not isinstance(value, bytes):
        try:
            return n.RealConst(REAL, float(value))
        except ValueError:
            pass
    text = value if isinstance(value, bytes) else str(value).encode()
    return n.Const(Vec(max(8 * len(text), 8)), int.from_bytes(text, "big"), 0, True)


def elaborate(
    library: Library,
    diagnostics: Diagnostics,
    top: str | None = None,
    parameters: Given | None = None,
    sites: list[Site] | None = None,
    finest: int | None = None,
    foreign: Foreign | None = None,
    texts: dict[bytes, int] | None = None,
) -> Design | None:
    """The design below `top`; None after errors. `parameters` override those of the top. `sites` and `texts` are continued, and the tick is
    `finest` (a power of ten in seconds), where the design is part of a larger one; `foreign` knows the units of its other language."""
    library.apply_binds()
    if top is None:
        top = choose_top(library, diagnostics)
        if top is None:
            return None
    module = library.modules.get(top)
    if module is None:
        pos = next((m.pos for m in library.modules.values()), 0)
        diagnostics.error(pos, f"there is no module '{top}' to be the top{nearest(top, library.modules)}", "unknown-module")
        return None
    names = parameters_of(module)
    given: dict[str, n.Expr] = {}
    for name, value in (parameters or {}).items():
        if name not in names:
            diagnostics.error(module.pos, f"'{top}' has no parameter '{name}'{nearest(name, names)}", "unknown-parameter")
            return None
        given[name] = _constant(value)
    upward, mark, first_site = Upward(), diagnostics.mark(), len(sites or ())
    for _ in range(PASSES):
        context = _context(library, diagnostics, finest, foreign)
        context.upward = upward
        if sites is not None:
            context.sites = sites
        if texts is not None:
            context.texts = texts
        upward.again = False
        made = _elaborate_below(context, library, top, given)
        if not upward.again:
            break
        diagnostics.forget(mark)
        del context.sites[first_site:]
    else:
        diagnostics.error(
            module.pos, f"the defparams of this design change each other's values without an end ({PASSES} rounds)", "defparam"
        )
    if diagnostics.failed:
        return None
    packages = [InstanceDecl(name, p.unit, p.unit.pos) for name, p in context.package_units.items()]
    others = [InstanceDecl(name, x.unit, x.unit.pos) for name, x in context.tops.items() if x is not made]
    return Design(
        [*packages, *others, InstanceDecl(top, made.unit, module.pos)],
        context.order,
        context.sites,
        context.tick_exp,
        context.annotations,
        texts=tuple(context.texts),
    )


def _context(library: Library, diagnostics: Diagnostics, finest: int | None, foreign: Foreign | None) -> Context:
    scales = [m.timescale or DEFAULT_SCALE for m in (*library.modules.values(), *library.packages.values())]
    tick = min(s.precision for s in scales) if finest is None else finest
    return Context(
        diagnostics,
        library.modules,
        library.primitives,
        tick,
        packages=library.packages,
        annotated=bool(library.delay_files),
        delay_words=_delay_words(library),
        foreign=foreign,
        instantiated=library.instantiated,
    )


def _elaborate_below(context: Context, library: Library, top: str, given: dict[str, n.Expr]) -> UnitElaborator:
    """The top and all that is below it, as far as it comes."""
    module = library.modules[top]
    start_setting_tops(context, library.setters.get(top, []), top)
    made = UnitElaborator(context, module, top, given, Overrides(), None, None)
    context.tops[top] = made
    for bind in library.instance_binds:
        paths = [p for p in bind.instances or [bind.target] if p[0] == top or p[0] not in library.modules]
        made.bind_to_instances(bind, paths)  # what lies below another top is not here
    try:
        made.run()
        finish_other_tops(context, top)
        _complete(context)
    except Abandon:
        pass
    except RecursionError:
        context.diagnostics.error(module.pos, "an expression or a hierarchy is nested too deeply", "too-deep")
    return made
