"""Mevrik: do the four accounts of a digital design agree, and if not, where and why?"""

__version__ = "0.1.0"
