"""Defparams whose path leads out of their module (IEEE 1364-2005 12.2.1): upwards, to what lies beside, or from a module at the top
that sets the parameters of others.

They are known only when the module they stand in is elaborated, and what they change may be there by then: the elaboration is then
begun again with them, until it finds no further one.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from mevrik.lang.diagnostics import nearest
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.elaborate.instances import value_words
from mevrik.lang.verilog.elaborate.scope import Bound, Override, Overrides

if TYPE_CHECKING:
    from mevrik.lang.verilog.elaborate.context import Context
    from mevrik.lang.verilog.elaborate.unit import UnitElaborator

PASSES = 20  # each defparam may change what another one's value is made of
Path = tuple[str, ...]


def parameters_of(module: ast.Module) -> list[str]:
    """The names of those that may be given another value, in their order."""
    inside = [d.name for i in module.items if isinstance(i, ast.ParamDecl) and not i.local for d in i.names]
    return [d.name for p in module.params for d in p.names] + inside


class Upward:
    """What is set in and below a unit from elsewhere, by the key of the unit."""

    def __init__(self) -> None:
        self._found: dict[str, dict[Path, Override]] = {}
        self.again = False  # something was found that the units don't have yet

    def give(self, key: str, inner: Overrides) -> None:
        """To a new unit, what is known to be set in and below it."""
        for path, override in self._found.get(key, {}).items():
            inner.put(path, Override(override.pos, override.value))

    def set(self, key: str, path: Path, override: Override) -> None:
        known = self._found.setdefault(key, {})
        old = known.get(path)
        if old is not None and (old.pos > override.pos or value_words(old.value) == value_words(override.value)):
            return  # what stands last in the text counts
        known[path] = override
        self.again = True


def check_used(elab: UnitElaborator) -> None:
    """What was set here and below and found no parameter: it may lie elsewhere."""
    for path, override in elab.defparams.items():
        if override.used:
            continue
        if isinstance(override.value, Bound):
            bind = override.value.tree
            alone = len(bind.target) == 1 and not bind.instances  # it could have been the name of a module
            known = [*(x.name for x in elab.unit.instances), *(elab.context.modules if alone else ())]
            what = f"{'module or ' if alone else ''}instance '{'.'.join(path[:-1])}'"
            message = f"there is no {what} in '{elab.module.name}' to bind to{nearest(path[0], known)} (IEEE 1800-2017 23.11)"
            elab.context.diagnostics.error(override.pos, message, "bind")
        elif not _leads_out(elab, path, override) and not elab.root.loses(path[0]):
            name = elab.module.name
            where = ".".join(path[:-1])
            what = (
                f"'{name}' has no parameter '{path[0]}'"
                if len(path) == 1
                else f"there is no instance '{where}' in or above '{name}'"
            )
            elab.context.diagnostics.error(override.pos, f"{what} (IEEE 1364-2005 12.2.1)", "defparam")


def _leads_out(elab: UnitElaborator, path: Path, override: Override) -> bool:
    """Whether the path begins with a module above, or with an instance in one (12.5, 12.6), or is a parameter of the module itself."""
    upward = elab.context.upward
    steps = path[1:] if path[0] == "$root" else path
    if upward is not None and len(path) == 1 and path[0] in parameters_of(elab.module):
        upward.set(elab.unit.key, path, override)
        return True
    above = elab.parent
    while above is not None and upward is not None and len(steps) > 1:
        inside = steps[1:] if steps[0] == above.module.name else steps
        if len(inside) < len(steps) or any(x.name.split(".")[0] == steps[0] for x in above.unit.instances):
            upward.set(above.unit.key, inside, override)
            return True
        above = above.parent
    return False


def start_setting_tops(context: Context, names: list[str], top: str) -> None:
    """Modules that nothing instantiates are at the top too (12.1.1); of `names` those with defparams for the top set them before it is
    begun."""
    from mevrik.lang.verilog.elaborate.unit import UnitElaborator

    assert context.upward is not None
    for name in names:
        module = context.modules[name]
        if name == top or module.interface or module.ports or name in context.instantiated():
            continue
        made = context.tops[name] = UnitElaborator(context, module, name, {}, Overrides(), None, None)
        made.declare_all()
        for path, override in made.defparams.items():
            if path[0] == top and len(path) > 1:
                override.used = True
                context.upward.set(top, path[1:], override)
    context.upward.again = False  # the top isn't there yet
