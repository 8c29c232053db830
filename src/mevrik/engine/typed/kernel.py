"""What generated code calls in the kernel."""

from __future__ import annotations

KERNEL = """
declare void @llvm.memmove.p0.p0.i64(ptr, ptr, i64, i1)
declare void @llvm.memset.p0.i64(ptr, i8, i64, i1)
declare void @llvm.assume(i1)
declare double @llvm.fabs.f64(double)
declare double @llvm.round.f64(double)
declare { i64, i1 } @llvm.sadd.with.overflow.i64(i64, i64)
declare { i64, i1 } @llvm.ssub.with.overflow.i64(i64, i64)
declare { i64, i1 } @llvm.smul.with.overflow.i64(i64, i64)
declare i64 @llvm.smin.i64(i64, i64)
declare i64 @llvm.smax.i64(i64, i64)
declare i32 @memcmp(ptr, ptr, i64) nounwind willreturn memory(argmem: read)
declare ptr @v_arena(i64)
declare ptr @v_give(ptr, ptr, i64)
declare void @v_mark(ptr, i64, i64, i32)
declare void @v_assign(ptr, i64, ptr, i64, i32)
declare i32 @v_follow(i32, i32) cold
declare i32 @v_driving(ptr)
declare ptr @v_driving_value(ptr, i32)
declare i32 @v_only(i32)
declare i32 @v_take(i32)
declare void @v_recorded(i32, i32)
declare void @v_record_nine(i32, i32, ptr, i32) memory(read, inaccessiblemem: readwrite)
declare void @v_wake(i32)
declare void @v_wave(ptr, i64, i64, i64, ptr, i64, i64, i32, i32, i32)
declare void @v_force(i32, i64, ptr, i64, i32)
declare void @v_release(i32, i64, i64, i32)
declare void @v_wait(i32, i32, i32)
declare void @v_zero()
declare void @v_until(i64)
declare i32 @v_suspend()
declare i32 @v_event(i32, i64, i64)
declare ptr @v_last(i32, i64)
declare i64 @v_since(i32, i64, i64, i32)
declare i32 @v_active(i32, i64, i64)
declare void @k_loop(i32)
declare void @v_report(i32, i32, ptr, i64, i32) cold memory(read, inaccessiblemem: readwrite)
declare void @v_bounds(i32, i64, i64, i64, i64, ptr) cold noreturn
declare void @v_range(i32, i64, i64, i64, ptr) cold noreturn
declare void @v_range_enum(i32, i64, i64, i64, ptr, ptr, ptr) cold noreturn
declare void @v_range_real(i32, double, double, double, ptr) cold noreturn
declare void @v_length(i32, i64, i64) cold noreturn
declare void @v_overflow(i32, ptr) cold noreturn
declare void @v_zero_division(i32) cold noreturn
declare void @v_no_return(i32) cold noreturn
declare void @v_no_choice(i32) cold noreturn
declare void @v_direction(i32) cold noreturn
declare void @v_deep(i32) cold noreturn
declare void @v_null(i32) cold noreturn
declare ptr @v_new(i64)
declare void @v_free(ptr)
declare i64 @v_power(i64, i64, i32)
declare double @v_power_real(double, i64)
declare i64 @v_compare(ptr, i64, ptr, i64, i64)
declare i32 @v_choice(ptr, ptr, i64)
declare void @v_shift(ptr, ptr, i64, i64, i64, i64, i64)
declare void @v_image_enum(ptr, ptr, ptr, i64)
declare void @v_image_integer(ptr, i64)
declare void @v_image_physical(ptr, i64, ptr)
declare void @v_to_string(ptr, ptr, i64, ptr, ptr)
declare i64 @v_value_integer(ptr, i64, i64, i64, i32)
declare double @v_value_real(ptr, i64, i64, i64, i32)
declare i64 @v_value_enum(ptr, i64, i64, i64, ptr, ptr, i64, i32)
declare i64 @v_value_physical(ptr, i64, i64, i64, ptr, ptr, i64, i32)
declare void @file_open(ptr, ptr, i64, i64, i64, i64, i32)
declare void @file_open_status(ptr, ptr, ptr, i64, i64, i64, i64, i32)
declare void @file_close(ptr, i32)
declare void @file_flush(ptr, i32)
declare i64 @endfile(ptr, i32)
declare void @file_read(ptr, ptr, i64, i32)
declare void @file_write(ptr, ptr, i64, i32)
declare void @file_write_array(ptr, ptr, i64, i64, i32)
declare i64 @file_read_array(ptr, ptr, i64, i64, i32)
"""
BUILT_IN = {
    "x_not": "void (ptr, ptr, i64, i64, i64, i64)",
    "x_reduce": "i64 (ptr, i64, i64, i64, i64, i64)",
    "x_logic": "void (ptr, ptr, i64, i64, i64, ptr, i64, i64, i64, i64, i64)",
    "x_logic_with": "void (ptr, ptr, i64, i64, i64, i64, i64, i64)",
    "x_match": "i64 (ptr, i64, i64, i64, ptr, i64, i64, i64)",
    "x_match1": "i64 (i64, i64)",
    "x_not1": "i64 (i64)",
    "x_logic1": "i64 (i64, i64, i64)",
    "x_real_image": "void (ptr, double, i64)",
}

# What is called and leaves nothing for the kernel to do; what takes no temporary storage, or gives it back.
IDLE = ("pack", "ask", "unpack", "llvm.", "x_", "memcmp", "v_arena", "v_event", "v_active", "v_since", "v_last", "v_report", "v_record",
         "v_power", "v_compare", "v_choice", "v_shift", "v_bounds", "v_range", "v_length", "v_overflow", "v_zero_division", "v_no_",
         "v_direction")  # fmt: skip
FRUGAL = ("pack", "ask", "unpack", "llvm.", "memcmp", "v_event", "v_active", "v_report", "v_mark", "v_wave", "v_bounds", "v_range",
           "v_length")  # fmt: skip
# What is seldom called, or takes long. (result, types of the parameters, what it does to memory that the code sees)
_READS = "memory(read, inaccessiblemem: readwrite)"
_ASIDE = {
    "v_mark": ("void", "ptr, i64, i64, i32", ""),
    "v_follow": ("i32", "i32, i32", ""),
    "v_recorded": ("void", "i32, i32", ""),
    "v_record_nine": ("void", "i32, i32, ptr, i32", _READS),
    "v_report": ("void", "i32, i32, ptr, i64, i32", _READS),
}


def aside_function(name: str) -> tuple[str, str]:
    """(its result, its text): the same function, but all registers are as before when it returns, so that a caller which seldom comes to
    it need not set any aside."""
    result, types, does = _ASIDE[name]
    given = ", ".join(f"{kind} %a{k}" for k, kind in enumerate(types.split(", ")))
    call, back = f"call {result} @{name}({given})", "ret void"
    if result != "void":
        call, back = f"%r = {call}", f"ret {result} %r"
    head = f"define internal preserve_mostcc {result} @aside_{name}({given}) noinline cold {does}"
    return result, f"{head} {{\n  {call}\n  {back}\n}}\n"
