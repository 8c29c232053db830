// Requests for whole lines, or for single words of devices, from one master to one slave.
interface brae_bus_if #(
    parameter int LINE_WORDS = 4,
    parameter type addr_t = logic [31:0]
) (
    input logic clk,
    input logic rst_n
);
  typedef logic [LINE_WORDS-1:0][31:0] line_t;

  logic       req, gnt;
  logic       we;
  logic       single;
  addr_t      addr;
  line_t      wdata;
  logic [3:0] be;
  logic       rvalid;
  line_t      rdata;

  modport master(input clk, rst_n, gnt, rvalid, rdata, output req, we, single, addr, wdata, be);
  modport slave(input clk, rst_n, req, we, single, addr, wdata, be, output gnt, rvalid, rdata);
  modport monitor(input clk, rst_n, req, gnt, we, single, addr, wdata, be, rvalid, rdata);

  // a request stays as it is until it is granted
  property stable_request;
    @(posedge clk) disable iff (!rst_n) req && !gnt |=> req && $stable(addr) && $stable(we);
  endproperty
  a_stable: assert property (stable_request)
    else $error("%m: the request changed before its grant");

  function automatic bit fires();
    return req && gnt;
  endfunction
endinterface : brae_bus_if
