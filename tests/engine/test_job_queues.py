"""Stochastic analysis tasks (IEEE 1364-2005 17.6), their tables of statuses and statistics gone through by hand."""

from __future__ import annotations

from collections.abc import Callable

from tests.conftest import Done
from tests.rows import prints


def test_queues_of_jobs(simulate: Callable[..., Done]) -> None:
    """First-in and last-in queues, each status, each statistic; jobs arrive at 10, 30 and 70, and leave at 75 and 85."""
    text = """`timescale 1ns/1ps
    module tb; integer id, job, inf, st, v, k; reg [7:0] tiny;
    initial begin
      $q_initialize(1, 1, 3, st); $write("%0d ", st); $q_initialize(1, 1, 3, st); $write("%0d ", st); $q_initialize(2, 3, 3, st); $write("%0d ", st); $q_initialize(2, 2, 0, st); $write("%0d ", st); $q_initialize(2, 2, 5, st); $display("%0d", st);
      job = -1; inf = -1; $q_remove(1, job, inf, st); $display("%0d %0d %0d", st, job, inf); $q_add(7, 0, 0, st); $write("%0d ", st); $q_remove(7, job, inf, st); $write("%0d ", st); $q_exam(7, 1, v, st); $write("%0d ", st); v = $q_full(7, st); $display("%0d %0d", v, st);
      #10 $q_add(1, 100, 5, st); #20 $q_add(1, 101, -6, st); if (!$q_full(1, st)) $display("room %0d", st); #40 $q_add(1, 102, 7, st); $display("%0d", $q_full(1, st)); $q_add(1, 103, 8, st); $display("%0d", st);
      #5 for (k = 1; k <= 6; k = k + 1) begin $q_exam(1, k, v, st); $write("%0d ", v); end $display;
      $q_remove(1, tiny, inf, st); $display("%0d %0d %0d", tiny, inf, st); #10 $q_remove(1, job, inf, st); $display("%0d %0d", job, inf);
      for (k = 1; k <= 6; k = k + 1) begin $q_exam(1, k, v, st); $write("%0d ", v); end $display;
      for (k = 0; k < 5; k = k + 1) $q_add(2, k, 10 * k, st); for (k = 0; k < 5; k = k + 1) begin $q_remove(2, job, inf, st); $write("%0d/%0d ", job, inf); end $display("%0d", st);
      $q_initialize(3, 1, 1000000, st); for (k = 0; k < 1000; k = k + 1) begin $q_add(3, k, 0, st); $q_add(3, k, 1, st); $q_remove(3, job, inf, st); end $q_exam(3, 1, v, st); $display("%0d %0d %0d", job, inf, v);
    end endmodule"""
    wanted = """
    0 6 4 5 0
    3 -1 -1
    2 2 2 0 2
    room 0
    1
    1
    3 30 3 0 65 0
    100 5 0
    101 -6
    1 30 3 55 15 60
    4/40 3/30 2/20 1/10 0/0 0
    499 1 1000
    """
    prints(simulate, text, wanted)


def test_a_missing_argument_is_named(simulate: Callable[..., Done]) -> None:
    done = simulate("module tb; integer s; initial begin $q_add(1, 2); s = $q_full(1); end endmodule")
    assert done.status != 0
    assert "$q_add" in done.err and "$q_full" in done.err
