"""The compiled parts, plain shared libraries: the run-time kernel, which generated code calls into, and the scanners of the languages."""

from pathlib import Path

from setuptools import Extension, setup

OPTIONS = ["-fno-tree-vectorize", "-fno-tree-slp-vectorize", "-fno-semantic-interposition", "-fno-plt", "-fno-stack-protector"]


def compiled(name: str, folder: str, *options: str, libraries: list[str] | None = None) -> Extension:
    sources = sorted(str(p) for p in Path(folder).glob("*.c"))
    depends = sorted(str(p) for p in Path(folder).glob("*.h"))
    flags = ["-O2", *options, "-g0", "-Wall", "-Wextra", "-std=gnu11", "-U_FORTIFY_SOURCE"]
    return Extension(name, sources, depends=depends, extra_compile_args=flags, libraries=libraries)


setup(
    ext_modules=[
        compiled("mevrik.engine._kernel", "src/mevrik/engine/kernel", *OPTIONS, libraries=["m", "pthread", "dl"]),
        compiled("mevrik.lang._scan", "src/mevrik/lang/scan"),
    ]
)
