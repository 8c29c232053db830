"""Findings about an elaborated design that predict a difference between simulation and hardware. All are warnings."""

from __future__ import annotations

from mevrik.design.unit import Design
from mevrik.lang.diagnostics import Diagnostics
from mevrik.lang.findings.base import Allowing, allowed
from mevrik.lang.findings.bodies import Bodies
from mevrik.lang.findings.processes import ProcessFindings
from mevrik.lang.findings.structure import StructureFindings
from mevrik.lang.findings.values import ValueFindings
from mevrik.lang.findings.variables import VariableFindings


def look(design: Design, diagnostics: Diagnostics) -> None:
    """Add the findings about a design: unit by unit, then about its typed half."""
    bodies = Bodies()
    lookers = [
        looker(design, diagnostics, bodies) for looker in (ProcessFindings, ValueFindings, StructureFindings, VariableFindings)
    ]
    for unit in design.units:
        for looker in lookers:
            looker.look(unit)
    if design.typed is not None:
        # only here: what has no VHDL should not wait for it
        from mevrik.lang.findings.deltas import clocks_skewed_by_deltas, never_reset
        from mevrik.lang.findings.logic import driven_twice, incomplete_sensitivity, latches, never_starts

        said = Allowing(design, diagnostics)
        for kind in (clocks_skewed_by_deltas, never_reset, incomplete_sensitivity, latches, driven_twice, never_starts):
            kind(design.typed, said)


__all__ = ["allowed", "look"]
