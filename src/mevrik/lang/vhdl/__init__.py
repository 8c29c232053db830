"""VHDL (IEEE 1076-2008; 1987 and 1993 sources are accepted): text → syntax tree → elaborated design."""
