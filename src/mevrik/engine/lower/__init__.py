"""Lowering: processes and subprograms of the Design become LLVM IR text."""
