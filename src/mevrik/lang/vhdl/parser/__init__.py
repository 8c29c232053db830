"""Tokens → syntax tree, by recursive descent."""

from mevrik.lang.vhdl.parser.units import parse

__all__ = ["parse"]
