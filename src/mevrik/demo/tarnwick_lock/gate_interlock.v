// Safety interlock of the two gates of the lock at Tarnwick.
//
// A gate may be freed only when it is asked for, the water stands at its level, the other gate is shut and nobody
// holds the lock. Both level switches at once, or both gates open, is an alarm.
module gate_interlock (
  input  wire level_low,    // the water in the chamber stands at the lower level
  input  wire level_high,   // ... at the upper level
  input  wire lower_shut,   // the lower gate is shut
  input  wire upper_shut,   // the upper gate is shut
  input  wire ask,          // the keeper asks for the gate that fits the level
  input  wire hold,         // the keeper holds everything
  output wire free_lower,
  output wire free_upper,
  output reg  alarm
);
  wire at_lower = level_low  & ~level_high;
  wire at_upper = level_high & ~level_low;

  assign free_lower = ask & at_lower & upper_shut & ~hold;
  assign free_upper = ask & at_upper & lower_shut & ~hold;

  always @* begin
    alarm = 1'b0;
    if (level_low && level_high)
      alarm = 1'b1;
    if (!lower_shut && !upper_shut)
      alarm = 1'b1;
  end
endmodule
