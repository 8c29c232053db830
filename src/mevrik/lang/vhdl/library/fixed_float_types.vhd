-- ieee.fixed_float_types (IEEE 1076-2008 16.9).
package fixed_float_types is
  type fixed_round_style_type is (fixed_round, fixed_truncate);
  type fixed_overflow_style_type is (fixed_saturate, fixed_wrap);
  type round_type is (round_nearest, round_inf, round_neginf, round_zero);
end package;
