"""Findings about an elaborated design that predict a difference between simulation and hardware. All are warnings."""

from __future__ import annotations

from mevrik.design.unit import Design
from mevrik.lang.diagnostics import Diagnostics
from mevrik.lang.findings.base import allowed
from mevrik.lang.findings.deltas import look_at_typed
from mevrik.lang.findings.processes import ProcessFindings
from mevrik.lang.findings.structure import StructureFindings
from mevrik.lang.findings.values import ValueFindings


def look(design: Design, diagnostics: Diagnostics) -> None:
    """Add the findings about a design, unit by unit."""
    lookers = [kind(design, diagnostics) for kind in (ProcessFindings, ValueFindings, StructureFindings)]
    for unit in design.units:
        for looker in lookers:
            looker.look(unit)
    if design.typed is not None:
        look_at_typed(design.typed, diagnostics)


__all__ = ["allowed", "look"]
