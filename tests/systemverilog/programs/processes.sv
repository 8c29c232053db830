module tb;
  timeunit 1ns; timeprecision 1ns;
  event start, ev[3]; semaphore sem = new(2); mailbox #(string) mb = new(); process procs[$];
  int done_count; bit flag; logic clk = 0; always #5 clk = ~clk;
  task automatic worker(int id, int t);
    sem.get(1); $display("%0t w%0d in", $time, id); #t; $display("%0t w%0d out", $time, id); sem.put(1); done_count++;
  endtask
  task automatic with_timeout(int t, output bit timed_out);
    fork : both
      begin @(start); timed_out = 0; end
      begin #t; timed_out = 1; end
    join_any
    disable both;
  endtask
  task automatic producer(); string s; for (int i = 0; i < 3; i++) begin #2; s = $sformatf("m%0d", i); mb.put(s); end endtask
  task automatic consumer(); string s; repeat (3) begin mb.get(s); $display("%0t got %s", $time, s); end if (!mb.try_get(s)) $display("empty %0d", mb.num()); endtask
  initial begin
    bit to;
    for (int i = 0; i < 4; i++) begin automatic int k = i; fork worker(k, 10 + k); join_none end
    wait fork;
    $display("%0t all %0d", $time, done_count);
    fork with_timeout(7, to); #3 ->start; join $display("%0t to=%b", $time, to);
    with_timeout(7, to); $display("%0t to=%b", $time, to);
    fork producer(); consumer(); join
    fork
      begin : p1 procs.push_back(process::self()); #50 $display("never"); end
      begin : p2 procs.push_back(process::self()); #5 $display("%0t p2", $time); end
    join_any
    $display("%s %s", procs[0].status().name(), procs[1].status().name());
    procs[0].kill(); #1 $display("%s", procs[0].status().name());
    begin
      fork begin repeat (3) @(posedge clk); flag = 1; end join_none
      wait (flag); $display("%0t flag", $time);
    end
    fork begin wait (ev[1].triggered); $display("%0t triggered", $time); end begin #1 -> ev[1]; end join
    fork begin @(ev[2]); $display("%0t ev2", $time); end begin ->> #4 ev[2]; end join
    begin event e2; e2 = ev[0]; fork begin @e2; $display("alias"); end begin #1 ->ev[0]; end join if (e2 == ev[0]) $display("same"); e2 = null; end
    fork : forks begin #1; disable forks; end begin #100 $display("no"); end join $display("%0t after", $time);
    begin : blk for (int i = 0; ; i++) begin if (i == 3) disable blk; #1; end end $display("%0t blk", $time);
    wait_order (ev[0], ev[1], ev[2]) $display("ordered"); else $display("out of order"); end initial begin #400 $finish(0);
  end
  initial begin #95; end
endmodule
