"""Tokens → syntax tree, by recursive descent."""

from mevrik.lang.vhdl.parser.units import parse, parse_expression

__all__ = ["parse", "parse_expression"]
