"""From Verilog syntax trees to the Design: names are resolved, parameters fixed, sizes and signs settled."""

from mevrik.lang.verilog.elaborate.design import elaborate

__all__ = ["elaborate"]
