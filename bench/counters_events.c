/* The same counters as event-driven, four-state, delta-accurate C, written by hand: an event wheel for the clock, static
 * fan-out, an active queue, nonblocking updates, value and unknown planes. */
#include <stdint.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
typedef struct { uint32_t v, u; } Val;
enum { CLK, RST, FAST, SLOW, CARRY, SIGNALS };
enum { P_CLOCK, P_FAST, P_SLOW, P_CARRY, P_END, PROCS };
static Val sig[SIGNALS];
static uint8_t queued[PROCS];
static int active[64], head, tail;
static struct { int s; Val v; } nba[16];
static int nba_count;
static uint64_t now, wake_clock = 5, wake_rst = 12, wake_end;
static int done;
static void sched(int p) { if (!queued[p]) { queued[p] = 1; active[tail++ & 63] = p; } }
static void set(int s, Val v) {
    Val o = sig[s];
    if (o.v == v.v && o.u == v.u) return;
    sig[s] = v;
    switch (s) {
    case CLK: {
        int was = (o.v & 1) | (o.u & 1) << 1, is = (v.v & 1) | (v.u & 1) << 1;
        static const uint8_t POS[4][4] = {{0, 1, 1, 1}, {0, 0, 0, 0}, {0, 1, 0, 0}, {0, 1, 0, 0}};
        if (POS[was][is]) { sched(P_FAST); sched(P_SLOW); }
        break;
    }
    case FAST: sched(P_CARRY); break;
    }
}
static Val add1(Val a) { return a.u ? (Val){0xFFFFFF, 0xFFFFFF} : (Val){(a.v + 1) & 0xFFFFFF, 0}; }
static void run(int p) {
    switch (p) {
    case P_CLOCK: set(CLK, (Val){(~sig[CLK].v | sig[CLK].u) & 1, sig[CLK].u}); wake_clock = now + 5; break;
    case P_FAST: nba[nba_count].s = FAST;
        nba[nba_count++].v = (sig[RST].v & ~sig[RST].u & 1) ? (Val){0, 0} : add1(sig[FAST]); break;
    case P_SLOW:
        if (sig[RST].v & ~sig[RST].u & 1) { nba[nba_count].s = SLOW; nba[nba_count++].v = (Val){0, 0}; }
        else if (sig[CARRY].v & ~sig[CARRY].u & 1) { nba[nba_count].s = SLOW; nba[nba_count++].v = add1(sig[SLOW]); }
        break;
    case P_CARRY: { Val f = sig[FAST]; set(CARRY, f.u ? (Val){1, 1} : (Val){f.v == 0xFFFFFF, 0}); break; }
    case P_END: done = 1; break;
    }
}
int main(int argc, char **argv) {
    uint64_t clocks = strtoull(argc > 1 ? argv[1] : "36000000", 0, 10);
    wake_end = 12 + 10 * clocks;
    sig[RST] = (Val){1, 0};
    while (!done) {
        uint64_t next = wake_clock;
        if (wake_rst && wake_rst < next) next = wake_rst;
        if (wake_end < next) next = wake_end;
        now = next;
        if (now == wake_end) sched(P_END);
        if (now == wake_rst) { wake_rst = 0; set(RST, (Val){0, 0}); }
        if (now == wake_clock) sched(P_CLOCK);
        for (;;) {
            while (head != tail) { int p = active[head++ & 63]; queued[p] = 0; run(p); }
            if (!nba_count) break;
            int n = nba_count; nba_count = 0;
            for (int k = 0; k < n; k++) set(nba[k].s, nba[k].v);
        }
    }
    printf("%u %u\n", sig[FAST].v, sig[SLOW].v);
    return 0;
}
