"""What every module of generated code begins with: the kernel's functions, and the write of a small signal.

A write compares, stores, and only for a signal that somebody watches calls the kernel.
"""

from __future__ import annotations

DECLARATIONS = """
%Arg = type { i32, i32, ptr, ptr, i32, i32 }
declare void @k_changed(i32, i32, i32, i32)
declare i32 @k_process_self()
declare void @k_asserts(i32, i32, ptr)
declare i32 @k_asserts_on(i32, ptr)
declare i32 @k_asserts_killed(i32, ptr)
declare i32 @k_process_status(i32)
declare i32 @k_process_await(i32)
declare void @k_process_kill(i32)
declare void @k_exit()
declare void @k_process_suspend(i32)
declare void @k_process_resume(i32)
declare i64 @k_link(i64)
declare void @k_trigger(i32, i32)
declare i32 @k_triggered(i32)
declare void @k_watched(i32, i32, i32, i32)
declare void @k_write(i32, i32, i32, i64, i32, ptr, ptr)
declare void @k_drive(i32, i32, ptr, ptr)
declare void @k_drive_after(i32, i32, ptr, ptr, i64, i64, i64)
declare void @k_drive_pulse(i32, i32, ptr, ptr, i64, i64, i64, i32)
declare void @k_schedule64(i32, i32, i32, i64, i64)
declare void @k_schedule(i32, i32, i32, i64, i32, ptr, ptr, i64)
declare void @k_hold(i32, i32, i64, i32, ptr, ptr, i32)
declare void @k_release(i32, i32, i64, i32, i32)
declare void @k_wait(i32, i32, i32)
declare void @k_wait_contents(i32)
declare void @k_contents_changed()
declare void @k_delay(i64)
declare ptr @k_call(i32, i32, ptr)
declare void @k_return(ptr)
declare void @k_free(ptr)
declare ptr @k_open_frame(i32, ptr)
declare ptr @k_fork(i32, i32, ptr, i32, i32)
declare i32 @k_disable(ptr, i32, i32, i32, i32, i32, i32)
declare void @k_loop(i32)
declare void @k_stack(i32, i32)
declare void @k_strobe(i32, ptr)
declare void @k_monitor(i32, ptr)
declare void @k_fmonitor(i32, ptr, i32)
declare void @k_monitor_switch(i32)
declare i32 @k_reason()
declare void @k_finish(i32, i32)
declare void @k_print(i32, i32, i32, i32, ptr, i32, i32, ptr, i32)
declare void @k_time_format_args(ptr, i32)
declare i64 @k_time(i64)
declare i64 @k_text(ptr, i32)
declare i32 @k_wait_fork()
declare void @k_disable_fork()
declare i64 @k_new(i32, i32)
declare i64 @k_new_copy(i64, i32)
declare void @k_own_list(i64, i32, i32)
declare void @k_own_lists(ptr, i32, i64, i32)
declare ptr @k_object(i64, i32)
declare i32 @k_class(i64, i32)
declare i32 @k_list_size(i64)
declare void @k_list_free(i64)
declare i64 @k_list_temporary(i32, i32)
declare void @k_list_insert(ptr, i32, i32, i64, ptr, ptr)
declare void @k_list_push(ptr, i32, i32, ptr, ptr)
declare void @k_list_bound(i64, i32)
declare void @k_list_set(ptr, i32, i32, i64, ptr, ptr, i32)
declare void @k_list_get(i64, i64, i32, i32, ptr, ptr)
declare ptr @k_list_slot(ptr, i32, i32, i64)
declare void @k_list_delete(ptr, i64)
declare void @k_list_clear(ptr)
declare void @k_list_pop(ptr, i32, i32, i32, ptr, ptr)
declare void @k_list_append(ptr, i32, i32, i64, i64, i64)
declare void @k_list_copy(ptr, i32, i32, i64)
declare void @k_list_take(ptr, i64)
declare i64 @k_list_clone(i64)
declare i64 @k_list_slice(i64, i32, i32, i64, i64)
declare void @k_list_new(ptr, i32, i32, i64, i64)
declare i64 @k_list_of(ptr, i32, i32, i64, i32, i32)
declare ptr @k_list_data(i64, i64, i32, i32)
declare i64 @k_list_turned(i64, i64, i32, i32)
declare void @k_list_order(ptr, i64, i32, i32)
declare void @k_list_reverse(ptr)
declare void @k_list_shuffle(ptr)
declare i64 @k_list_pick(i64, i64, i32, i32, i32, i32)
declare i32 @k_list_has(i64, ptr, ptr)
declare i32 @k_list_equal(i64, i64)
declare void @k_map_set(ptr, i32, i32, i64, i32, ptr, ptr)
declare ptr @k_map_slot(ptr, i32, i32, i64, i32)
declare void @k_map_get(i64, i64, i32, i32, i32, ptr, ptr)
declare void @k_map_default(ptr, i32, i32, ptr, ptr)
declare i32 @k_map_exists(i64, i64, i32)
declare void @k_map_delete(ptr, i64, i32)
declare i32 @k_map_move(i64, i32, i64, i32, ptr)
declare i64 @k_map_key(i64, i64)
declare void @k_array_copy(ptr, i32, i32, ptr, i32, i32, i64)
declare void @k_array_write(i32, i32, i64, i64, ptr, i32, i32)
declare void @k_array_fill(ptr, i32, i32, ptr, ptr, i64)
declare i64 @k_stream()
declare void @k_stream_value(i64, i32, ptr, ptr)
declare void @k_stream_list(i64, i64)
declare i64 @k_stream_turn(i64, i32, i32)
declare void @k_stream_into(i64, i32, i64, i32, i32, ptr, ptr)
declare i64 @k_stream_elements(i64, i64, i64, i32, i32)
declare i32 @k_stream_size(i64)
declare i64 @k_text_pattern(ptr, ptr, ptr)
declare double @k_text_real(i64)
declare i64 @k_text_of_real(double)
declare void @llvm.lifetime.start.p0(i64, ptr)
declare void @llvm.memset.p0.i64(ptr, i8, i64, i1)
declare i64 @k_text_from(ptr, ptr, i32)
declare void @k_text_into(i64, ptr, i32)
declare i64 @k_text_join(i64, i64)
declare i64 @k_text_repeat(i64, i32)
declare i64 @k_text_compare(i64, i64, i32)
declare i32 @k_text_size(i64)
declare i32 @k_text_get(i64, i64)
declare i64 @k_text_put(i64, i64, i32)
declare i64 @k_text_part(i64, i64, i64)
declare i64 @k_text_case(i64, i32)
declare i64 @k_text_number(i64, i32)
declare i64 @k_text_of_number(i64, i32)
declare i64 @k_text_format(i32, i32, ptr, i32, ptr, i32)
declare void @k_text_arg(i64, ptr, i32)
declare i32 @k_lookup(ptr, i32, i32, i32, i64, i64, i64, i64, i32, i32)
declare double @k_realtime(double)
declare i32 @k_random(ptr)
declare i32 @k_urandom()
declare i32 @k_urandom_seed(i64)
declare i32 @k_seed_of(i64, i64)
declare i32 @k_draw_of(i64)
declare i32 @k_draw_range_of(i64, i32)
declare i64 @k_state_of(i64)
declare i32 @k_restore_of(i64, i64)
declare i32 @k_urandom_range(i32, i32)
declare i32 @k_test_plus(ptr)
declare i32 @k_value_plus(ptr, i32, i32)
declare i32 @k_fopen(ptr, i32, i32)
declare void @k_fclose(i32)
declare void @k_fflush(i32)
declare i32 @k_feof(i32)
declare i32 @k_ungetc(i32, i32)
declare i32 @k_rewind(i32)
declare i32 @k_fseek(i32, i32, i32)
declare i32 @k_ftell(i32)
declare i32 @k_fgets(i32, i32)
declare i32 @k_ferror(i32, i32)
declare i32 @k_fread(i32, i32, i64, i64, i64, i64)
declare i32 @k_fscanf(i32, ptr, ptr, i32, i32)
declare i32 @k_sscanf(ptr, ptr, ptr, i32, i32)
declare i32 @k_q_initialize(i64, i64, i64)
declare i32 @k_q_add(i64, i64, i64, i64)
declare i32 @k_q_remove(i64, i64)
declare i64 @k_q_job()
declare i64 @k_q_inform()
declare i32 @k_q_full(i64)
declare i32 @k_q_known(i64)
declare i32 @k_q_exam(i64, i64, i64)
declare i64 @k_q_value()
declare i32 @k_distribution(i32, ptr, i32, i32)
declare void @k_writemem(i32, i32, i32, ptr, i32, i64, i64, i32)
declare void @k_dump_request(i32, ptr)
declare void @k_dump_name(i32, ptr)
declare void @k_dump_switch(i32)
declare void @k_dump_limit(i64)
declare void @k_dump_flush()
declare void @k_ports(i32, ptr, ptr, i32, i32)
declare void @k_ports_switch(i32, ptr, i32)
declare void @k_ports_limit(i64, ptr, i32)
declare void @k_ports_flush(ptr, i32)
declare i32 @k_fgetc(i32)
declare void @k_readmem(i32, i32, i32, ptr, i32, i64, i64, i32)
declare void @k_divide(ptr, ptr, ptr, i32, i32, i32)
declare void @k_multiply(ptr, ptr, ptr, i32)
declare i32 @k_power(ptr, ptr, i32, ptr, i32, i32, i32)
declare double @k_real_power(double, double)
declare double @k_to_real(ptr, ptr, i32, i32)
declare void @k_from_real(ptr, double, i32)
declare double @k_math(i32, double, double)
declare double @llvm.fabs.f64(double)
@spin = internal global i32 0
@depth = internal global i32 0
"""

_WRITE4 = """
define internal void @{name}(ptr %m, ptr %at, i{n} %v, i{n} %u, i32 %sig, i32 %site) alwaysinline {{
  %up = getelementptr i8, ptr %at, i64 {b}
  %ov = load i{n}, ptr %at
  %ou = load i{n}, ptr %up
  %dv = xor i{n} %ov, %v
  %du = xor i{n} %ou, %u
  %d = or i{n} %dv, %du
  %same = icmp eq i{n} %d, 0
  br i1 %same, label %out, label %store
store:
  store i{n} %v, ptr %at
  store i{n} %u, ptr %up
  %s64 = zext i32 %sig to i64
  %wp = getelementptr i8, ptr %m, i64 %s64
  %w = load i8, ptr %wp
  %watched = icmp ne i8 %w, 0
  br i1 %watched, label %tell, label %out
tell:
  %ovl = {cast} i{n} %ov to i32
  %oul = {cast} i{n} %ou to i32
  %nvl = {cast} i{n} %v to i32
  %nul = {cast} i{n} %u to i32
  %o1 = and i32 %ovl, 1
  %o2 = and i32 %oul, 1
  %o3 = shl i32 %o2, 1
  %o = or i32 %o1, %o3
  %n1 = and i32 %nvl, 1
  %n2 = and i32 %nul, 1
  %n3 = shl i32 %n2, 1
  %nn = or i32 %n1, %n3
  call void {changed}i32 %site, i32 %o, i32 %nn)
  br label %out
out:
  ret void
}}
"""

_WRITE2 = """
define internal void @{name}(ptr %m, ptr %at, i{n} %v, i32 %sig, i32 %site) alwaysinline {{
  %ov = load i{n}, ptr %at
  %same = icmp eq i{n} %ov, %v
  br i1 %same, label %out, label %store
store:
  store i{n} %v, ptr %at
  %s64 = zext i32 %sig to i64
  %wp = getelementptr i8, ptr %m, i64 %s64
  %w = load i8, ptr %wp
  %watched = icmp ne i8 %w, 0
  br i1 %watched, label %tell, label %out
tell:
  %ovl = {cast} i{n} %ov to i32
  %nvl = {cast} i{n} %v to i32
  %o = and i32 %ovl, 1
  %nn = and i32 %nvl, 1
  call void {changed}i32 %site, i32 %o, i32 %nn)
  br label %out
out:
  ret void
}}
"""


def write_function(name: str, bits: int, planes: int, changed: str = "@k_changed(i32 %sig, ") -> str:
    """A function that writes a signal held in `bits` bits a plane; `changed` begins the call that tells of a change."""
    cast = "zext" if bits < 32 else "trunc" if bits > 32 else "bitcast"
    return (_WRITE4 if planes > 1 else _WRITE2).format(name=name, n=bits, b=bits // 8, cast=cast, changed=changed)


def prelude() -> str:
    """The memory block begins with the watch bytes, one a signal."""
    parts = [DECLARATIONS]
    for n in (8, 16, 32, 64):
        parts += [write_function(f"w{n}", n, 2), write_function(f"b{n}", n, 1)]
    return "".join(parts)
