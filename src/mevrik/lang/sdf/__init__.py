"""Delay annotation files (IEEE 1497)."""
