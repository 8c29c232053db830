"""System functions and the operations on strings as calls of the kernel (IEEE 1364-2005 clause 17, IEEE 1800-2017 6.16)."""

from __future__ import annotations

import struct

from mevrik.design import nodes as n
from mevrik.design.evaluate import MATH
from mevrik.design.types import Real, Text
from mevrik.engine.lower.function import Val
from mevrik.engine.lower.operands import OperandLowerer
from mevrik.engine.lower.operators import signed_text

_PLAIN_FILE_CALLS = {"$feof", "$fgetc", "$ungetc", "$rewind", "$fseek", "$ftell"}
_DISTRIBUTIONS = (
    "$dist_uniform", "$dist_normal", "$dist_exponential", "$dist_poisson", "$dist_chi_square", "$dist_t", "$dist_erlang",
)  # fmt: skip
_MATH_NUMBERS = {name: number for number, name in enumerate(MATH)}

# string operations of the kernel: the type of the result and of the arguments
TEXT_CALLS: dict[str, tuple[str, tuple[str, ...]]] = {
    "join": ("i64", ("i64", "i64")),
    "repeat": ("i64", ("i64", "i32")),
    "compare": ("i64", ("i64", "i64", "i32")),
    "size": ("i32", ("i64",)),
    "get": ("i32", ("i64", "i64")),
    "put": ("i64", ("i64", "i64", "i32")),
    "part": ("i64", ("i64", "i64", "i64")),
    "case": ("i64", ("i64", "i32")),
    "number": ("i64", ("i64", "i32")),
    "of_number": ("i64", ("i64", "i32")),
}

# what random numbers of a process or an object can be asked for (kernel/random.c)
RANDOM_CALLS: dict[str, tuple[str, tuple[str, ...]]] = {
    "$seed_of": ("i32", ("i64", "i64")),
    "$draw_of": ("i32", ("i64",)),
    "$draw_range_of": ("i32", ("i64", "i32")),
    "$state_of": ("i64", ("i64",)),
    "$restore_of": ("i32", ("i64", "i64")),
}


class SystemLowerer(OperandLowerer):
    def _real_system(self, e: n.SysCall, name: str, args: tuple[n.Expr | n.LRef, ...]) -> str:
        f = self.f
        if name == "$realtime":
            factor = 10.0 ** (e.note - self.module.design.tick_exp)
            return f.op(f"call double @k_realtime(double {_double(factor)})")
        if name == "$text_real":
            assert isinstance(args[0], n.Expr)
            return f.op(f"call double @k_text_real(i64 {self.value(args[0]).v})")
        if name == "$bitstoshortreal":
            assert isinstance(args[0], n.Expr)
            short = self.known(self.resized(self.value(args[0]), 32, False))
            return f.op(f"fpext float {f.op(f'bitcast i32 {short.v} to float')} to double")
        if name == "$bitstoreal":
            assert isinstance(args[0], n.Expr)
            x = self.known(self.resized(self.value(args[0]), 64, False))
            return f.op(f"bitcast i64 {x.v} to double")
        reals = [self.real(a) for a in args if isinstance(a, n.Expr)]
        reals += ["0.0"] * (2 - len(reals))
        return f.op(f"call double @k_math(i32 {_MATH_NUMBERS[name]}, double {reals[0]}, double {reals[1]})")

    def _textconst(self, e: n.TextConst) -> Val:
        if not e.value:
            return Val("0", None, 64)
        return Val(self.f.op(f"call i64 @k_text(ptr {self.module.data(e.value)}, i32 {len(e.value)})"), None, 64)

    def _text_call(self, e: n.SysCall, args: list[n.Expr]) -> Val:
        """The string operations: "$text_NAME" calls k_text_NAME with what text_calls.py says of its arguments."""
        f = self.f
        name = e.name.removeprefix("$text_")
        w = n.vec(e).width
        if name == "from":
            value = self.value(args[0])
            pv, pu = f.spill(value)
            return Val(f.op(f"call i64 @k_text_from(ptr {pv}, ptr {pu}, i32 {value.w})"), None, 64)
        if name == "into":
            words = max((w + 63) // 64, 1)
            at = f.alloca(8 * words)
            f.emit(f"call void @k_text_into(i64 {self.value(args[0]).v}, ptr {at}, i32 {w})")
            return f.load_planes(at, w, 8 * words, 1)
        if name == "pattern":
            pv, pu = self.spilled(self.evaluate(args[0]))
            return Val(f.op(f"call i64 @k_text_pattern(ptr {pv}, ptr {pu}, ptr {self.module.text(e.scope)})"), None, 64)
        if name == "of_real":
            return Val(f.op(f"call i64 @k_text_of_real(double {self.real(args[0])})"), None, 64)
        if name.startswith(("format", "print")):
            array = self.arg_array(list(args), first_is_format=name.startswith("format"))
            inst, scope = self.module.instance_number(f), self.module.text(e.scope)
            radix = {"b": 2, "o": 8, "h": 16}.get(name.removeprefix("format").removeprefix("print"), 10)
            made = f"@k_text_format(i32 {radix}, i32 {inst}, ptr {scope}, i32 {e.note}, ptr {array}, i32 {len(args)})"
            return Val(f.op(f"call i64 {made}"), None, 64)
        result, kinds = TEXT_CALLS[name]
        given: list[str] = []
        for kind, arg in zip(kinds, args):
            value = self.known(self.value(arg))
            width = int(kind.removeprefix("i"))
            given.append(f"{kind} {self.resized(value, width, n.vec(arg).signed).v}")
        out = f.op(f"call {result} @k_text_{name}({', '.join(given)})")
        return self.resized(Val(out, None, int(result.removeprefix("i"))), w, True)

    def _syscall(self, e: n.SysCall) -> Val:
        f = self.f
        name = e.name
        w = n.vec(e).width
        args = [a for a in e.args if isinstance(a, n.Expr)]
        if name.startswith("$text_"):
            return self._text_call(e, args)
        if name.startswith("$stream"):
            return self.stream_call(e, args)
        if name in ("$time", "$stime"):
            factor = 10 ** (e.note - self.module.design.tick_exp)
            t = f.op(f"call i64 @k_time(i64 {factor})")
            return self.resized(Val(t, None, 64), w, False)
        if name in ("$asserts_on", "$asserts_killed"):
            (scope,) = e.args
            assert isinstance(scope, n.TextConst)
            where = f"i32 {self.module.instance_number(f)}, ptr {self.module.text(scope.value.decode())}"
            return self.resized(Val(f.op(f"call i32 @k_{name[1:]}({where})"), None, 32), w, False)
        if name == "$process_self":
            return Val(f.op("call i32 @k_process_self()"), None, 32)
        if name == "$process_status":
            number = self.known(self.resized(self.value(args[0]), 32, False)).v
            return Val(f.op(f"call i32 @k_process_status(i32 {number})"), None, 32)
        if name == "$event_number":  # none is 0
            assert isinstance(args[0], n.Ref)
            return Val(f.op(f"add i32 {f.storage(args[0].signal).number}, 1"), None, 32)
        if name == "$event_happened":
            number = f.op(f"sub i32 {self.known(self.resized(self.value(args[0]), 32, False)).v}, 1")
            return Val(f.op(f"trunc i32 {f.op(f'call i32 @k_triggered(i32 {number})')} to i1"), None, 1)
        if name == "$triggered":
            assert isinstance(args[0], n.Ref)
            happened = f.op(f"call i32 @k_triggered(i32 {f.storage(args[0].signal).number})")
            return Val(f.op(f"trunc i32 {happened} to i1"), None, 1)
        if name == "$random":
            seed = "null"
            place = next((a for a in e.args if isinstance(a, n.LRef)), None)
            if place is not None:
                seed = f.storage(place.signal).address
            return Val(f.op(f"call i32 @k_random(ptr {seed})"), None, 32)
        if name == "$urandom":
            if args:
                return Val(
                    f.op(f"call i32 @k_urandom_seed(i64 {self.known(self.resized(self.value(args[0]), 64, True)).v})"), None, 32
                )
            return Val(f.op("call i32 @k_urandom()"), None, 32)
        if name == "$urandom_range":
            bounds = [self.known(self.resized(self.value(a), 32, False)).v for a in args] + ["0"]
            return Val(f.op(f"call i32 @k_urandom_range(i32 {bounds[0]}, i32 {bounds[1]})"), None, 32)
        if name in RANDOM_CALLS:
            result, kinds = RANDOM_CALLS[name]
            operands = [self.known(self.resized(self.value(a), int(k[1:]), True)).v for a, k in zip(args, kinds, strict=True)]
            arguments = ", ".join(f"{k} {v}" for k, v in zip(kinds, operands, strict=True))
            call = f"call {result} @k_{name[1:]}({arguments})"
            return Val(f.op(call), None, int(result[1:]))
        if name == "$clog2":
            a = self.value(args[0])
            less = f.op(f"sub i{a.w} {a.v}, 1")
            self.module.intrinsics.add(f"declare i{a.w} @llvm.ctlz.i{a.w}(i{a.w}, i1)")
            lead = f.op(f"call i{a.w} @llvm.ctlz.i{a.w}(i{a.w} {less}, i1 false)")
            bits = f.op(f"sub i{a.w} {signed_text(a.w, a.w)}, {lead}")
            zero = f.op(f"icmp eq i{a.w} {a.v}, 0")
            bits = f.op(f"select i1 {zero}, i{a.w} 0, i{a.w} {bits}")
            r = self.resized(Val(bits, None, a.w), w, False)
            return self.or_unknown(r.v, w, self.any_unknown(a))
        if name == "$countones":
            a = self.resized(self.known(self.value(args[0])), max(w, n.vec(args[0]).width), False)
            self.module.intrinsics.add(f"declare i{a.w} @llvm.ctpop.i{a.w}(i{a.w})")
            count = f.op(f"call i{a.w} @llvm.ctpop.i{a.w}(i{a.w} {a.v})")
            return self.resized(Val(count, None, a.w), w, False)
        if name in ("$onehot", "$onehot0"):
            a = self.known(self.value(args[0]))
            less = f.op(f"sub i{a.w} {a.v}, 1")
            both = f.op(f"and i{a.w} {a.v}, {less}")
            one = f.op(f"icmp eq i{a.w} {both}, 0")
            if name == "$onehot":
                some = f.op(f"icmp ne i{a.w} {a.v}, 0")
                one = f.op(f"and i1 {one}, {some}")
            return Val(one, None, 1)
        if name == "$isunknown":
            bad = self.any_unknown(self.value(args[0]))
            return Val(bad or "0", None, 1)
        if name == "$rtoi":
            x = f.op(f"fptosi double {self.real(args[0])} to i64")
            return self.resized(Val(x, None, 64), w, True)
        if name == "$shortrealtobits":
            return Val(f.op(f"bitcast float {f.op(f'fptrunc double {self.real(args[0])} to float')} to i32"), None, 32)
        if name == "$realtobits":
            return Val(f.op(f"bitcast double {self.real(args[0])} to i64"), None, 64)
        if name == "$test$plusargs":
            return Val(f.op(f"call i32 @k_test_plus(ptr {self.arg_array(args)})"), None, 32)
        if name == "$value$plusargs":
            place = next(a for a in e.args if isinstance(a, n.LRef))
            number = f.storage(place.signal).number or "0"
            return Val(f.op(f"call i32 @k_value_plus(ptr {self.arg_array(args)}, i32 {number}, i32 0)"), None, 32)
        if name == "$fopen":
            return Val(f.op(f"call i32 @k_fopen(ptr {self.arg_array(args)}, i32 {len(args)}, i32 0)"), None, 32)
        if name in _PLAIN_FILE_CALLS:
            given = ", ".join(f"i32 {self._word(a)}" for a in args)
            return Val(f.op(f"call i32 @k_{name[1:]}({given})"), None, 32)
        if name.startswith("q_"):
            given = ", ".join(f"i64 {self.index64(a)}" for a in args)
            return Val(f.op(f"call i{w} @k_{name}({given})"), None, w)
        if name in _DISTRIBUTIONS:
            place = next(a for a in e.args if isinstance(a, n.LRef))
            numbers = [self._word(a) for a in args] + ["0"]
            seed = f.storage(place.signal).address
            which = _DISTRIBUTIONS.index(name)
            return Val(f.op(f"call i32 @k_distribution(i32 {which}, ptr {seed}, i32 {numbers[0]}, i32 {numbers[1]})"), None, 32)
        if name == "$countbits":
            return self._count_bits(args, w)
        return self._reading(e, args)

    def _word(self, e: n.Expr) -> str:
        return self.known(self.resized(self.value(e), 32, n.vec(e).signed)).v

    def _count_bits(self, args: list[n.Expr], w: int) -> Val:
        """How many bits have one of the given values (IEEE 1800-2017 20.9)."""
        f = self.f
        a = self.value(args[0])
        unk = a.u or "0"
        total: Val | None = None
        self.module.intrinsics.add(f"declare i{a.w} @llvm.ctpop.i{a.w}(i{a.w})")
        for wanted in {(c.val & 1, c.unk & 1) for c in args[1:] if isinstance(c, n.Const)}:
            v = a.v if wanted[0] else f.op(f"xor i{a.w} {a.v}, -1")
            u = unk if wanted[1] else f.op(f"xor i{a.w} {unk}, -1")
            count = f.op(f"call i{a.w} @llvm.ctpop.i{a.w}(i{a.w} {f.op(f'and i{a.w} {v}, {u}')})")
            here = self.resized(Val(count, None, a.w), w, False)
            total = here if total is None else Val(f.op(f"add i{w} {total.v}, {here.v}"), None, w)
        return total or Val("0", None, w)

    def _reading(self, e: n.SysCall, args: list[n.Expr]) -> Val:
        """Functions that write what they read into signals."""
        f, name = self.f, e.name
        places = [a for a in e.args if isinstance(a, n.LRef)]
        numbers = [f.storage(p.signal).number for p in places]
        if name == "$fgets":
            return Val(f.op(f"call i32 @k_fgets(i32 {numbers[0]}, i32 {self._word(args[0])})"), None, 32)
        if name == "$ferror":
            return Val(f.op(f"call i32 @k_ferror(i32 {self._word(args[0])}, i32 {numbers[0]})"), None, 32)
        if name == "$fread":
            left, right = places[0].signal.dims[0] if places[0].signal.dims else (0, 0)
            start = self.index64(args[1]) if len(args) > 1 else str(min(left, right))
            count = self.index64(args[2]) if len(args) > 2 else "-1"
            given = f"i32 {numbers[0]}, i32 {self._word(args[0])}, i64 {left}, i64 {right}, i64 {start}, i64 {count}"
            return Val(f.op(f"call i32 @k_fread({given})"), None, 32)
        table = f.alloca(4 * max(len(numbers), 1))
        for k, number in enumerate(numbers):
            f.emit(f"store i32 {number}, ptr {f.op(f'getelementptr i8, ptr {table}, i64 {4 * k}')}")
        rest = f"ptr {table}, i32 {len(numbers)}, i32 {f.unit.unit_exp}"
        if name == "$sscanf":
            texts = self.arg_array(args)
            second = f.op(f"getelementptr i8, ptr {texts}, i64 32")
            return Val(f.op(f"call i32 @k_sscanf(ptr {texts}, ptr {second}, {rest})"), None, 32)
        assert name == "$fscanf"
        return Val(f.op(f"call i32 @k_fscanf(i32 {self._word(args[0])}, ptr {self.arg_array(args[1:])}, {rest})"), None, 32)

    # ---- arguments of system tasks ----

    def arg_array(self, args: list[n.Expr | None] | list[n.Expr], first_is_format: bool = False) -> str:
        """An array of Arg as kernel.h declares it: 32 bytes each."""
        f = self.f
        at = f.alloca(32 * max(len(args), 1))
        for index, arg in enumerate(args):
            kind, width, pv, pu, sig, bit = 0, 0, "null", "null", "-1", 0
            if arg is not None and isinstance(arg.type, Text):
                p = f.op(f"getelementptr i8, ptr {at}, i64 {32 * index}")
                is_format = int(first_is_format and index == 0)
                f.emit(f"call void @k_text_arg(i64 {self.value(arg).v}, ptr {p}, i32 {is_format})")
                continue
            if arg is not None and isinstance(arg.type, Real):
                kind, width = 2, 64
                pv = f.alloca(8)
                f.emit(f"store double {self.real(arg)}, ptr {pv}")
            elif arg is not None:
                t = n.vec(arg)
                kind = 3 if isinstance(arg, n.Const) and arg.text else 1
                kind |= 256 if t.signed else 0
                width = t.width
                pv, pu = f.spill(self.value(arg))
                plain = arg.base if isinstance(arg, n.Bits) and not arg.offset.terms else arg
                if isinstance(plain, n.Ref) and plain.element is None:
                    number = f.storage(plain.signal).number
                    if number:
                        sig = number
                        bit = arg.offset.const if isinstance(arg, n.Bits) else 0
            if isinstance(arg, n.SysCall) and arg.name in ("$time", "$stime", "$realtime"):
                kind |= 512
            for offset, kind_of, value in (
                (0, "i32", str(kind)), (4, "i32", str(width)), (8, "ptr", pv), (16, "ptr", pu), (24, "i32", sig), (28, "i32", str(bit)),
            ):  # fmt: skip
                p = f.op(f"getelementptr i8, ptr {at}, i64 {32 * index + offset}")
                f.emit(f"store {kind_of} {value}, ptr {p}")
        return at


def _double(x: float) -> str:
    return "0x" + struct.pack(">d", x).hex().upper()
