// A behavioural model of a synchronous memory chip as its maker would give it away: one style of 1995 throughout.
`timescale 1ns / 10ps
`define  DQ_BITS   8
`define  ADDR_BITS 10
module wet_store (Dq, Addr, Ba, Clk, Cke, Cs_n, Ras_n, Cas_n, We_n, Dqm);
    parameter addr_bits = `ADDR_BITS;
    parameter data_bits = `DQ_BITS;
    parameter col_bits  = 6;
    parameter mem_sizes = (1 << (col_bits + 4)) - 1;

    inout     [data_bits - 1 : 0] Dq;
    input     [addr_bits - 1 : 0] Addr;
    input                 [1 : 0] Ba;
    input                         Clk, Cke, Cs_n, Ras_n, Cas_n, We_n;
    input                         Dqm;

    reg       [data_bits - 1 : 0] Bank0 [0 : mem_sizes], Bank1 [0 : mem_sizes];
    reg       [data_bits - 1 : 0] Dq_reg, Dq_dqm;
    reg                   [1 : 0] Bank_addr [0 : 3];
    reg        [col_bits - 1 : 0] Col_addr [0 : 3], Col_temp;
    reg                   [3 : 0] Command [0 : 3];
    reg       [addr_bits - 1 : 0] Mode_reg;
    reg                   [3 : 0] B0_row, B1_row;
    reg                           Act_b0, Act_b1, Pc_b0, Pc_b1;
    reg                           Data_in_enable, Data_out_enable;
    time MRD_chk, RRD_chk;
    realtime last_edge;
    integer errors;

    wire Active_enable = ~Cs_n & ~Ras_n & Cas_n & We_n;
    wire Read_enable   = ~Cs_n & Ras_n & ~Cas_n & We_n;
    wire Write_enable  = ~Cs_n & Ras_n & ~Cas_n & ~We_n;
    wire Prech_enable  = ~Cs_n & ~Ras_n & Cas_n & ~We_n;
    wire Mode_reg_enable = ~Cs_n & ~Ras_n & ~Cas_n & ~We_n;
    wire Cas_latency_2 = ~Mode_reg[6] & Mode_reg[5] & ~Mode_reg[4];
    wire Debug = 1'b0;

    assign Dq = Dq_reg;

    parameter tAC = 5.5, tHZ = 7.0, tRCD = 20.0, tRAS = 44.0;
    realtime RCD_chk0;

    initial begin
        Dq_reg = {data_bits{1'bz}};
        Data_in_enable = 0; Data_out_enable = 0;
        Act_b0 = 0; Act_b1 = 0; Pc_b0 = 1; Pc_b1 = 1;
        MRD_chk = 0; RRD_chk = 0; RCD_chk0 = 0; errors = 0;
        {Command[0], Command[1], Command[2], Command[3]} = 0;
        $timeformat (-9, 2, " ns", 12);
    end

    always @ (posedge Clk) begin
        if (Cke == 1'b1) begin
            Command[0] = Command[1]; Command[1] = Command[2]; Command[2] = Command[3]; Command[3] = 4'd0;
            Col_addr[0] = Col_addr[1]; Col_addr[1] = Col_addr[2]; Col_addr[2] = Col_addr[3];
            Bank_addr[0] = Bank_addr[1]; Bank_addr[1] = Bank_addr[2]; Bank_addr[2] = Bank_addr[3];
            if (Mode_reg_enable) begin
                Mode_reg = Addr;
                if (Pc_b0 !== 1'b1 || Pc_b1 !== 1'b1) begin
                    $display ("%m : at time %t ERROR: all banks must be precharged", $time); errors = errors + 1;
                end
                MRD_chk = $time;
            end
            if (Active_enable) begin
                case (Ba)
                    2'b00: if (Pc_b0) begin Act_b0 = 1'b1; Pc_b0 = 1'b0; B0_row = Addr[3:0]; RCD_chk0 = $realtime; end
                           else begin $display ("%m : at time %t ERROR: bank 0 is not precharged", $time); errors = errors + 1; end
                    2'b01: if (Pc_b1) begin Act_b1 = 1'b1; Pc_b1 = 1'b0; B1_row = Addr[3:0]; end
                    default: ;
                endcase
            end
            if (Prech_enable) begin
                if (Addr[addr_bits-1] || Ba == 0) begin Pc_b0 = 1; Act_b0 = 0; end
                if (Addr[addr_bits-1] || Ba == 1) begin Pc_b1 = 1; Act_b1 = 0; end
            end
            if (Read_enable) begin
                if (Ba == 0 && ($realtime - RCD_chk0 < tRCD)) begin
                    $display ("%m : at time %t ERROR: tRCD violation, %0.1f", $realtime, $realtime - RCD_chk0); errors = errors + 1;
                end
                Command[Cas_latency_2 ? 1 : 2] = 4'd1;
                Col_addr[Cas_latency_2 ? 1 : 2] = Addr[col_bits-1:0];
                Bank_addr[Cas_latency_2 ? 1 : 2] = Ba;
            end
            if (Write_enable) begin
                Data_in_enable = 1'b1; Col_temp = Addr;
            end
            if (Data_in_enable) begin
                if (!Dqm)
                    if (Ba[0] == 0) Bank0[{B0_row, Col_temp}] = Dq; else Bank1[{B1_row, Col_temp}] = Dq;
                Data_in_enable = 0;
            end
            if (Command[0] === 4'd1) begin
                Dq_dqm = Bank_addr[0] === 0 ? Bank0[{B0_row, Col_addr[0]}] : Bank1[{B1_row, Col_addr[0]}];
                Dq_reg = #tAC Dqm ? {data_bits{1'bz}} : Dq_dqm;
                Data_out_enable = 1;
            end else if (Data_out_enable) begin
                Dq_reg <= #tHZ {data_bits{1'bz}};
                Data_out_enable = 0;
            end
        end
    end

    specify
        specparam
            tAH  =  1.0, tAS  =  2.0, tCH  =  2.5, tCL  =  2.5, tCK  =  10,
            tDH  =  1.0, tDS  =  2.0;
        $width    (posedge Clk,           tCH);
        $width    (negedge Clk,           tCL);
        $period   (posedge Clk,           tCK);
        $setuphold(posedge Clk,    Cke,   tAS, tAH);
        $setuphold(posedge Clk,    Cs_n,  tAS, tAH);
        $setuphold(posedge Clk,    Addr,  tAS, tAH);
        $setuphold(posedge Clk &&& Debug, Dq, tDS, tDH);
    endspecify
endmodule
