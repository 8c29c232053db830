// Everything of the lock on one board: Verilog and VHDL together. The buttons and switches of the board are low when they are closed.
module lock_top (
  input  wire       clk,
  input  wire       rst_n,
  input  wire [6:0] floats_n,       // the float switches
  input  wire [1:0] shut_n,         // upper and lower gate are shut
  input  wire       ask_n,          // the keeper's button
  input  wire       hold_n,         // the keeper's switch
  input  wire [1:0] tracks,         // encoder of the gate that moves
  input  wire [3:0] opening,        // how far the paddle is to be drawn
  output wire [2:0] level,
  output wire [1:0] free,           // upper and lower gate may move
  output wire       alarm,
  output wire [7:0] position,
  output wire       moving,
  output wire       paddle
);
  wire fault, unsafe, start;

  level_encoder encoder (.floats(~floats_n), .level(level), .fault(fault));

  gate_interlock interlock (
    .level_low(level == 3'd0), .level_high(level == 3'd7),
    .lower_shut(~shut_n[0]), .upper_shut(~shut_n[1]),
    .ask(~ask_n), .hold(~hold_n | fault),
    .free_lower(free[0]), .free_upper(free[1]), .alarm(unsafe)
  );

  gate_position position_of_gate (
    .clk(clk), .rst_n(rst_n), .track_a(tracks[0]), .track_b(tracks[1]), .position(position), .moving(moving)
  );

  paddle_pwm pwm (.clk(clk), .rst_n(rst_n), .enable(~alarm), .duty(opening), .paddle(paddle), .start(start));

  assign alarm = unsafe | fault;
endmodule
