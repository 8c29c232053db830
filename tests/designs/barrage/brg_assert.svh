// Checks that vanish in synthesis; the clock and the reset have the names of the house unless others are given.
`ifndef BRG_ASSERT_SVH
`define BRG_ASSERT_SVH

`define BRG_STRINGIFY(__x) `"__x`"

`ifdef SYNTHESIS
  `define BRG_ASSERT(__name, __prop, __clk = clk_i, __rst = !rst_ni)
  `define BRG_ASSERT_INIT(__name, __prop)
  `define BRG_ASSERT_KNOWN(__name, __sig, __clk = clk_i, __rst = !rst_ni)
`else
  `define BRG_ERROR(__name) \
    $error("%s: %m does not hold", `BRG_STRINGIFY(__name))

  `define BRG_ASSERT(__name, __prop, __clk = clk_i, __rst = !rst_ni) \
    __name: assert property (@(posedge __clk) disable iff ((__rst) !== '0) (__prop)) \
      else begin                                                                      \
        `BRG_ERROR(__name);                                                           \
      end

  `define BRG_ASSERT_INIT(__name, __prop) \
    initial begin                         \
      __name: assert (__prop) else begin  \
        `BRG_ERROR(__name);               \
      end                                 \
    end

  `define BRG_ASSERT_KNOWN(__name, __sig, __clk = clk_i, __rst = !rst_ni) \
    `BRG_ASSERT(__name``_A, !$isunknown(__sig), __clk, __rst)
`endif

// A register with an asynchronous reset: target, next value, value after reset
`define BRG_FF(__q, __d, __reset_value, __clk = clk_i, __rst_n = rst_ni) \
  always_ff @(posedge __clk or negedge __rst_n) begin                    \
    if (!__rst_n) __q <= (__reset_value);                                \
    else          __q <= (__d);                                          \
  end

`define BRG_TYPES(__prefix, __addr_t, __data_t)                        \
  typedef struct packed {                                              \
    __addr_t                    addr;                                  \
    logic                       write;                                 \
    __data_t                    data;                                  \
    logic [$bits(__data_t)/8-1:0] strb;                                \
  } __prefix``_req_t;                                                  \
  typedef struct packed { __data_t data; logic error; } __prefix``_rsp_t;

`endif
