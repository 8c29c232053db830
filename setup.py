"""The one compiled part: the run-time kernel, a plain shared library that generated code calls into."""

from pathlib import Path

from setuptools import Extension, setup

sources = sorted(str(p) for p in Path("src/mevrik/engine/kernel").glob("*.c"))
setup(
    ext_modules=[
        Extension(
            "mevrik.engine._kernel",
            sources,
            depends=["src/mevrik/engine/kernel/kernel.h"],
            extra_compile_args=["-O2", "-fno-tree-vectorize", "-fno-tree-slp-vectorize", "-fno-semantic-interposition", "-fno-plt", "-g0", "-Wall", "-Wextra", "-std=gnu11", "-U_FORTIFY_SOURCE"],
            libraries=["m", "pthread"],
        )
    ]
)
