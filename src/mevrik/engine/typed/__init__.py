"""The typed half of a design (VHDL) → LLVM IR."""
