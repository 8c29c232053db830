"""The recursive-descent parser of Verilog and SystemVerilog: tokens in, syntax tree out.

One class a subject, each built on the one before: cursor, literals, expressions, declarations, statements, items, units.
"""

from mevrik.lang.verilog.parser.units import parse

__all__ = ["parse"]
