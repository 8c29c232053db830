// Runs the program in a file and tells what each instruction leaves behind; a model in classes goes along and compares.
`timescale 1ns / 1ps

package brae_tb_pkg;
  import brae_pkg::*;

  class observation;
    retired_t r;
    longint unsigned at;

    function new(retired_t r, longint unsigned at);
      this.r = r;
      this.at = at;
    endfunction

    function string lines();
      string s = "";
      if (r.stores)
        case (r.size)
          SZ_BYTE: s = $sformatf("%04h [%08h] %02h\n", r.pc, r.address, r.data[7:0]);
          SZ_HALF: s = $sformatf("%04h [%08h] %04h\n", r.pc, r.address, r.data[15:0]);
          default: s = $sformatf("%04h [%08h] %08h\n", r.pc, r.address, r.data);
        endcase
      if (r.writes) s = {s, $sformatf("%04h r%0d %08h\n", r.pc, r.rd, r.value)};
      return s;
    endfunction
  endclass : observation

  virtual class listener;
    protected static int unsigned made = 0;
    const int unsigned number;
    function new();
      number = ++made;
    endfunction
    pure virtual function void heard(observation o);
    pure virtual function string summary();
  endclass : listener

  class tracer extends listener;
    local int file;
    local int unsigned count;
    function new(string name);
      super.new();
      file = $fopen(name, "w");
    endfunction
    virtual function void heard(observation o);
      $fwrite(file, "%s", o.lines());
      count++;
    endfunction
    virtual function string summary();
      $fclose(file);
      return $sformatf("tracer %0d: %0d instructions", number, count);
    endfunction
  endclass : tracer

  // how many of each operation were retired
  class histogram #(type KEY = int) extends listener;
    int unsigned tallies[KEY];
    virtual function void heard(observation o);
      if (o.r.stores) tally("store");
      if (o.r.writes) tally(o.r.rd < 16 ? "low" : "high");
      if (!o.r.stores && !o.r.writes) tally("neither");
    endfunction
    function void tally(KEY k);
      if (!tallies.exists(k)) tallies[k] = 0;
      tallies[k]++;
    endfunction
    virtual function string summary();
      string s;
      KEY k;
      s = $sformatf("histogram %0d:", number);
      if (tallies.first(k))
        do s = {s, $sformatf(" %s=%0d", k, tallies[k])};
        while (tallies.next(k));
      return s;
    endfunction
  endclass : histogram

  // the instruction set once more: registers and memory after each instruction
  class model extends listener;
    typedef word_t file_t[32];
    file_t regs;
    bit [7:0] memory[word_t];
    word_t pc;
    word_t csrs[int];
    int unsigned mismatches;
    word_t retired;

    function new(ref instr_t words[$]);
      super.new();
      foreach (words[i])
        for (int b = 0; b < 4; b++) memory[4 * i + b] = words[i].raw[8*b+:8];
      foreach (regs[i]) regs[i] = 0;
      csrs = '{default: 0};
      pc = 0;
      retired = 0;
    endfunction

    function word_t read(word_t at, int bytes);
      word_t x = 0;
      for (int b = bytes - 1; b >= 0; b--) x = {x[23:0], memory.exists(at + b) ? memory[at + b] : 8'h00};
      return x;
    endfunction

    function void write(word_t at, word_t x, int bytes);
      for (int b = 0; b < bytes; b++) memory[at + b] = x[8*b+:8];
    endfunction

    protected function void trapped(cause_e cause, word_t bad);
      csrs[0] = {csrs[0][0], 1'b0};
      csrs[1] = word_t'(cause);
      csrs[2] = pc;
      csrs[8] = bad;
      pc = csrs[3];
    endfunction

    // until an instruction completes
    function retired_t step();
      retired_t r;
      forever begin
        if (attempt(r)) return r;
      end
    endfunction

    local function bit attempt(output retired_t r);
      instr_t x = instr_t'(read(pc, 4));
      decoded_t d = decode(x);
      word_t a = regs[d.rs1], b = d.use_imm ? d.imm : regs[d.rs2];
      word_t follow = pc + 4;
      r = '{valid: 1'b1, pc: pc, writes: d.writes, rd: d.rd, size: SZ_BYTE, default: '0};
      case (d.kind)
        K_BAD: begin
          trapped(C_ILLEGAL, x.raw);
          return 0;
        end
        K_LSU: begin
          word_t at = a + d.imm;
          int bytes = 1 << d.size;
          word_t held;
          if (at % bytes) begin
            trapped(C_MISALIGNED, at);
            return 0;
          end
          held = read(at, bytes);
          r.value = d.sext ? (bytes == 1 ? word_t'($signed(held[7:0])) : word_t'($signed(held[15:0]))) : held;
          r.size = d.size;
          if (d.mem != M_LOAD) begin
            r.stores = 1;
            r.address = at;
            r.data = d.mem == M_ADD ? held + b : b;
            if (!at[31]) write(at, r.data, bytes);
          end
        end
        K_MUL: begin
          longint sa = $signed(a), sb = $signed(b);
          longint unsigned ua = a, ub = b;
          case (d.fn)
            F_MUL:   r.value = a * b;
            F_MULH:  r.value = word_t'((sa * sb) >>> 32);
            F_MULHU: r.value = word_t'((ua * ub) >> 32);
            F_DIV:   r.value = b == 0 ? '1 : word_t'(sa / sb);
            F_DIVU:  r.value = b == 0 ? '1 : a / b;
            F_REM:   r.value = b == 0 ? a : word_t'(sa % sb);
            F_REMU:  r.value = b == 0 ? a : a % b;
          endcase
        end
        K_SYS:
          case (d.op)
            OP_ECALL: begin
              trapped(C_CALL, word_t'(x.i.imm));
              return 0;
            end
            OP_ERET: begin
              csrs[0] = {1'b1, csrs[0][1]};
              follow = csrs[2];
            end
            OP_HALT: ;
            default: begin
              int n = x.i.imm;
              word_t fresh;
              r.value = n == 6 ? retired : csrs[n];
              fresh = d.op == OP_CSRRW ? a : d.op == OP_CSRRS ? r.value | a : r.value & ~a;
              if (n inside {2, 3}) fresh[1:0] = 0;
              if (n == 0) fresh = fresh & 3;
              if ((d.op == OP_CSRRW || x.i.a != 0) && n != 5 && n != 6) csrs[n] = fresh;
            end
          endcase
        default:
          if (d.branch) begin
            if (taken(d.op, a, b)) follow = pc + d.imm;
          end else if (d.jump) begin
            r.value = follow;
            follow = d.op == OP_JAL ? pc + d.imm : (a + d.imm) & ~3;
          end else if (d.op == OP_LUI) r.value = d.imm;
          else if (d.op == OP_AUIPC) r.value = pc + d.imm;
          else r.value = alu(d.fn, a, b);
      endcase
      if (d.writes) regs[d.rd] = r.value;
      pc = follow;
      retired++;
      return 1;
    endfunction : attempt

    virtual function void heard(observation o);
      retired_t wanted = step();
      observation w = new(wanted, 0);
      if (w.lines() != o.lines() && mismatches++ < 5)
        $error("at %0d the core has \"%s\", the model \"%s\"", o.at, o.lines(), w.lines());
    endfunction

    virtual function string summary();
      return $sformatf("model %0d: %0d mismatches", number, mismatches);
    endfunction
  endclass : model

  class publisher;
    local listener subscribers[$];
    mailbox #(observation) box = new();
    function void add(listener l);
      subscribers.push_back(l);
    endfunction
    task run();
      observation o;
      forever begin
        box.get(o);
        foreach (subscribers[i]) subscribers[i].heard(o);
      end
    endtask
    function void report();
      foreach (subscribers[i]) $display("%s", subscribers[i].summary());
    endfunction
  endclass : publisher

  publisher hub = new;
endpackage : brae_tb_pkg

// sits in every core
module brae_watch (
    input logic clk,
    input logic rst_n,
    input brae_pkg::retired_t retired
);
  import brae_tb_pkg::*;
  longint unsigned clocks = 0;
  always @(posedge clk)
    if (rst_n) begin
      clocks++;
      if (retired.valid) begin
        automatic observation o = new(retired, clocks);
        void'(hub.box.try_put(o));
      end
    end

  never_to_zero: assert property (@(posedge clk) disable iff (!rst_n) retired.valid && retired.writes |-> retired.rd != 0);
  even_pc: assert property (@(posedge clk) disable iff (!rst_n) retired.valid |-> retired.pc[1:0] == 2'b00);
endmodule : brae_watch

bind brae_core brae_watch watch (.*);

module brae_tb;
  import brae_pkg::*;
  import brae_tb_pkg::*;

  logic clk = 0, rst_n = 1;
  logic halted, console_valid;
  logic [7:0] console_char;
  word_t count;
  string text = "";

  brae_soc #(.LATENCY(3)) dut (.*);

  initial forever #5 clk = ~clk;

  instr_t program_words[$];
  model reference;

  task automatic load(string name);
    logic [31:0] words[0:4095];
    foreach (words[i]) words[i] = '0;
    $readmemh(name, words);
    for (int line = 0; line < 1024; line++)
      dut.memory.ram[line] = {words[4*line+3], words[4*line+2], words[4*line+1], words[4*line]};
    foreach (words[i]) program_words.push_back(words[i]);
  endtask

  always @(posedge clk) if (console_valid) text = {text, string'(console_char)};

  initial begin : main
    automatic tracer trace = new("trace.txt");
    automatic histogram #(string) kinds = new;
    load("program.hex");
    reference = new(program_words);
    hub.add(trace);
    hub.add(reference);
    hub.add(kinds);
    fork
      hub.run();
    join_none
    #1 rst_n = 0;
    #20 rst_n = 1;
    fork : race_for_end
      wait (halted);
      begin
        repeat (200000) @(posedge clk);
        $error("the program doesn't end");
      end
    join_any
    disable race_for_end;
    repeat (20) @(posedge clk);
    hub.report();
    $display("console: %s, %0d retired", text, count);
    $finish;
  end : main
endmodule : brae_tb
