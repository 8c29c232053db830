"""Brae-32, the instruction set that three cores of the tests implement: an assembler, an interpreter, and random programs.

A word is six bits of operation, then the registers d, a and b of five bits each, and eleven bits of function; or sixteen bits of
immediate in the place of b and the function. Register 0 is always 0. The interpreter tells what each instruction leaves behind:
`pc register value` when one is written, `pc [address] data` for a store of `data` (of the bytes that are stored).
"""

from __future__ import annotations

import random
from dataclasses import dataclass, field

M = 0xFFFF_FFFF
TIMES = "add sub and or xor andn sll srl sra rol slt sltu min max minu maxu mul mulh mulhu div divu rem remu clz pop brev bswap sxb sxh adds subs"
ALU = {name: k for k, name in enumerate(TIMES.split())}
IMMEDIATE = {name: k + 1 for k, name in enumerate("addi andi ori xori slti sltiu slli srli srai lui auipc".split())}
LOADS = {"lb": 16, "lh": 17, "lw": 18, "lbu": 19, "lhu": 20}
STORES = {"sb": 21, "sh": 22, "sw": 23}
ATOMIC = {"swp": 24, "fad": 25}
BRANCHES = {name: 32 + k for k, name in enumerate("beq bne blt bge bltu bgeu".split())}
CSR = {"csrrw": 48, "csrrs": 49, "csrrc": 50}
CSRS = {"status": 0, "cause": 1, "epc": 2, "tvec": 3, "scratch": 4, "cycles": 5, "retired": 6, "badaddr": 8}
PLAIN = {"ecall": 56, "eret": 57, "halt": 59}
OPERATIONS = {**IMMEDIATE, **LOADS, **STORES, **ATOMIC, **BRANCHES, **CSR, **PLAIN, "jal": 40, "jalr": 41}
RAM = 0x4000
CONSOLE = 0x8000_0000
MISALIGNED, ILLEGAL, CALL = 1, 2, 3


def signed(x: int) -> int:
    return x - (1 << 32) if x & 0x8000_0000 else x


def extended(x: int, bits: int) -> int:
    return (x | (M << bits if x >> (bits - 1) & 1 else 0)) & M


def word(op: int, d: int = 0, a: int = 0, low: int = 0) -> int:
    return op << 26 | d << 21 | a << 16 | low & 0xFFFF


def assemble(text: str) -> list[int]:
    """Lines of `name operands`; `label:` before one; a branch or jump names its label; `.word n` puts a number."""
    labels: dict[str, int] = {}
    lines: list[list[str]] = []
    for line in text.splitlines():
        words = line.split("#")[0].replace(",", " ").split()
        while words and words[0].endswith(":"):
            labels[words.pop(0)[:-1]] = len(lines)
        if words:
            lines.append(words)
    return [_encoded(words, k, labels) for k, words in enumerate(lines)]


def _number(text: str, labels: dict[str, int]) -> int:
    if text in CSRS:
        return CSRS[text]
    return labels[text] * 4 if text in labels else int(text.removeprefix("r"), 0)


def _encoded(words: list[str], here: int, labels: dict[str, int]) -> int:
    name, *rest = words
    values = [_number(x, labels) for x in rest]
    if name == ".word":
        return values[0] & M
    if name in ALU:
        d, a, b = (*values, 0, 0)[:3]
        return word(0, d, a, b << 11 | ALU[name])
    op = OPERATIONS[name]
    if name in ATOMIC:
        return word(op, values[0], values[1], values[2] << 11)
    if name in BRANCHES:
        return word(op, values[0], values[1], labels[rest[2]] - here)
    if name == "jal":
        return word(op, values[0], 0, labels[rest[1]] - here)
    if name in ("lui", "auipc"):
        return word(op, values[0], 0, values[1])
    return word(op, *(*values, 0, 0, 0)[:3])


def alu(name: str, a: int, b: int) -> int:
    """What an operation of two registers gives, 32 bits."""
    sa, sb, sh = signed(a), signed(b), b & 31
    match name:
        case "add":
            return (a + b) & M
        case "sub":
            return (a - b) & M
        case "and":
            return a & b
        case "or":
            return a | b
        case "xor":
            return a ^ b
        case "andn":
            return a & ~b & M
        case "sll":
            return a << sh & M
        case "srl":
            return a >> sh
        case "sra":
            return sa >> sh & M
        case "rol":
            return (a << sh | a >> (32 - sh)) & M
        case "slt":
            return int(sa < sb)
        case "sltu":
            return int(a < b)
        case "min":
            return min(sa, sb) & M
        case "max":
            return max(sa, sb) & M
        case "minu":
            return min(a, b)
        case "maxu":
            return max(a, b)
        case "mul":
            return a * b & M
        case "mulh":
            return sa * sb >> 32 & M
        case "mulhu":
            return a * b >> 32
        case "div" | "rem" if b == 0:
            return M if name == "div" else a
        case "div":
            quotient = abs(sa) // abs(sb)
            return (quotient if (sa < 0) == (sb < 0) else -quotient) & M
        case "rem":
            rest = abs(sa) % abs(sb)
            return (-rest if sa < 0 else rest) & M
        case "divu":
            return a // b if b else M
        case "remu":
            return a % b if b else a
        case "clz":
            return 32 - a.bit_length()
        case "pop":
            return a.bit_count()
        case "brev":
            return int(f"{a:032b}"[::-1], 2)
        case "bswap":
            return int.from_bytes(a.to_bytes(4, "little"), "big")
        case "sxb":
            return extended(a & 0xFF, 8)
        case "sxh":
            return extended(a & 0xFFFF, 16)
        case "adds" | "subs":
            exact = sa + sb if name == "adds" else sa - sb
            return max(-(1 << 31), min((1 << 31) - 1, exact)) & M
    raise ValueError(name)


NAME_OF = {number: name for name, number in OPERATIONS.items()}
ALU_NAMES = list(ALU)


@dataclass
class Machine:
    memory: bytearray
    pc: int = 0
    registers: list[int] = field(default_factory=lambda: [0] * 32)
    csrs: dict[int, int] = field(default_factory=lambda: dict.fromkeys((0, 1, 2, 3, 4, 8), 0))
    retired: int = 0
    trace: list[str] = field(default_factory=list)
    console: str = ""
    halted: bool = False

    def run(self, most: int = 100_000) -> None:
        while not self.halted:
            assert self.retired < most, "the program doesn't end"
            self.step()

    def trap(self, cause: int, bad: int = 0) -> None:
        status = self.csrs[0]
        self.csrs.update({0: (status & 1) << 1, 1: cause, 2: self.pc, 8: bad})
        self.pc = self.csrs[3]

    def step(self) -> None:
        at = self.pc
        code = int.from_bytes(self.memory[at : at + 4], "little")
        op, d, a, b = code >> 26, code >> 21 & 31, code >> 16 & 31, code >> 11 & 31
        imm, x, y = extended(code & 0xFFFF, 16), self.registers[code >> 16 & 31], self.registers[code >> 21 & 31]
        low, result, following = code & 0xFFFF, None, at + 4
        name = NAME_OF.get(op, "")
        if op == 0:
            if code & 0x7FF > ALU["subs"]:
                return self.trap(ILLEGAL, code)
            result = alu(ALU_NAMES[code & 0x7FF], x, self.registers[b])
        elif name in LOADS or name in STORES or name in ATOMIC:
            address = x if name in ATOMIC else (x + imm) & M
            size = {"b": 1, "h": 2}.get(name[1], 4) if name not in ATOMIC else 4
            if address % size:
                return self.trap(MISALIGNED, address)
            if name in STORES:
                self._store(at, address, y, size)
            else:
                held = int.from_bytes(self.memory[address : address + size], "little")
                result = extended(held, 8 * size) if name in ("lb", "lh") else held
                if name in ATOMIC:
                    other = self.registers[b]
                    self._store(at, address, other if name == "swp" else (held + other) & M, 4)
        elif name in BRANCHES:
            taken = {
                "beq": y == x, "bne": y != x, "blt": signed(y) < signed(x),
                "bge": signed(y) >= signed(x), "bltu": y < x, "bgeu": y >= x,
            }[name]  # fmt: skip
            if taken:
                following = (at + imm * 4) & M
        elif name in IMMEDIATE:
            result = self._immediate(name, x, imm, low)
        elif name in ("jal", "jalr"):
            result = at + 4
            following = (at + imm * 4) & M if name == "jal" else (x + imm) & M & ~3
        elif name in CSR:
            if low not in CSRS.values():
                return self.trap(ILLEGAL, code)
            result = self._csr(name, low, x, a)
        elif name == "ecall":
            return self.trap(CALL, low)
        elif name == "eret":
            following = self.csrs[2]
            self.csrs[0] = self.csrs[0] >> 1 & 1 | 2
        elif name == "halt":
            self.halted = True
        else:
            return self.trap(ILLEGAL, code)
        if result is not None and d:
            self.registers[d] = result
            self.trace.append(f"{at:04x} r{d} {result:08x}")
        self.retired += 1
        self.pc = following

    def _immediate(self, name: str, x: int, imm: int, low: int) -> int:
        match name:
            case "addi":
                return (x + imm) & M
            case "andi":
                return x & low
            case "ori":
                return x | low
            case "xori":
                return x ^ low
            case "lui":
                return low << 16
            case "auipc":
                return (self.pc + (low << 16)) & M
            case "slti" | "sltiu":
                return alu(name.replace("i", "", 1), x, imm)
            case _:
                return alu(name.removesuffix("i"), x, low)

    def _csr(self, name: str, number: int, x: int, a: int) -> int:
        old = self.retired if number == 6 else self.csrs.get(number, 0)
        if name == "csrrw" or a:
            new = {"csrrw": x, "csrrs": old | x, "csrrc": old & ~x}[name] & M
            if number in self.csrs:
                self.csrs[number] = new & 3 if number == 0 else new & ~3 if number in (2, 3) else new
        return old

    def _store(self, at: int, address: int, value: int, size: int) -> None:
        value &= (1 << 8 * size) - 1
        self.trace.append(f"{at:04x} [{address:08x}] {value:0{2 * size}x}")
        if address == CONSOLE:
            self.console += chr(value & 0xFF)
        else:
            self.memory[address : address + size] = value.to_bytes(size, "little")


def image(words: list[int]) -> bytearray:
    return bytearray(b"".join(w.to_bytes(4, "little") for w in words).ljust(RAM, b"\0"))


def executed(words: list[int]) -> Machine:
    machine = Machine(image(words))
    machine.run()
    return machine


def random_program(seed: int, length: int = 200) -> str:
    """A program of every kind of instruction that ends: branches go forward, a loop counts down in r31, data lies from 0x2000."""
    rng = random.Random(seed)
    lines = ["addi r29 r0 handler", "csrrw r0 r29 tvec", "ori r30 r0 0x2000", "jal r0 start"]
    # the handler skips what trapped, and counts in r28
    lines += [
        "handler: addi r28 r28 1",
        "csrrs r27 r0 epc",
        "addi r27 r27 4",
        "csrrw r0 r27 epc",
        "csrrs r26 r0 cause",
        "csrrs r25 r0 badaddr",
        "eret",
    ]
    for k in range(1, 16):
        lines.append(f"{'start: ' if k == 1 else ''}lui r{k} {rng.choice((0, 0xFFFF, 0x8000, 0x7FFF, rng.randrange(65536)))}")
        lines.append(f"ori r{k} r{k} {rng.choice((0, 0xFFFF, rng.randrange(65536)))}")
    reg = lambda: f"r{rng.randrange(16)}"  # noqa: E731
    pending: dict[int, str] = {}
    k = 0
    while k < length:
        if k in pending:
            lines.append(f"{pending.pop(k)}: addi r20 r20 1")
        kind = rng.random()
        if kind < 0.4:
            lines.append(f"{rng.choice(ALU_NAMES)} {reg()} {reg()} {reg()}")
        elif kind < 0.55:
            lines.append(f"{rng.choice(('addi', 'andi', 'ori', 'xori', 'slti', 'sltiu'))} {reg()} {reg()} {rng.randrange(65536)}")
        elif kind < 0.62:
            lines.append(f"{rng.choice(('slli', 'srli', 'srai'))} {reg()} {reg()} {rng.randrange(32)}")
        elif kind < 0.65:
            lines.append(f"{rng.choice(('lui', 'auipc'))} {reg()} {rng.randrange(65536)}")
        elif kind < 0.8:
            name = rng.choice((*LOADS, *STORES))
            step = 1 if rng.random() < 0.06 else {"b": 1, "h": 2}.get(name[1], 4)
            lines.append(f"{name} {reg()} r30 {rng.randrange(0, 96, step)}")
        elif kind < 0.84:
            lines.append(f"addi r19 r30 {rng.randrange(0, 64, 4)}")
            lines.append(f"{rng.choice(('swp', 'fad'))} {reg()} r19 {reg()}")
        elif kind < 0.92:
            target = k + rng.randrange(1, 8)
            if target < length:
                label = pending.setdefault(target, f"l{target}")
                lines.append(rng.choice((f"{rng.choice(list(BRANCHES))} {reg()} {reg()} {label}", f"jal {reg()} {label}")))
        elif kind < 0.94:
            lines.append(
                rng.choice(
                    (
                        "ecall 0 0 7",
                        f"csrrw {reg()} {reg()} scratch",
                        f"csrrs {reg()} {reg()} scratch",
                        f".word {0xF000_0000 + rng.randrange(65536)}",
                        f"csrrs {reg()} r0 retired",
                    )
                )
            )
        elif kind < 0.96:
            lines += [
                f"addi r31 r0 {rng.randrange(2, 6)}",
                f"loop{k}: fad r24 r30 r31",
                f"add {reg()} {reg()} r31",
                "addi r31 r31 -1",
                f"bne r31 r0 loop{k}",
            ]
        else:
            lines += [
                f"jal r23 over{k}",
                f"addi {reg()} r23 1",
                f"jal r0 done{k}",
                f"over{k}: jalr r22 r23 0",
                f"done{k}: sw r22 r30 100",
            ]
        k += 1
    lines += [f"{label}: addi r20 r20 1" for label in pending.values()]
    lines += ["lui r21 0x8000", "addi r18 r0 111", "sb r18 r21 0", "addi r18 r0 107", "sb r18 r21 0", "halt"]
    return "\n".join(lines)
