/* The netlist of bench.py's gates: 250 chains of 200 gates, nand #(1,2) and not #(2,1) in turn, behind one signal that changes every 1000.
 * Four-state, event-driven, inertial delays, a time wheel; written for this netlist by hand. Argument: how often the signal changes. */
#include <stdio.h>
#include <stdlib.h>
#define CHAINS 250
#define LENGTH 200
#define GATES (CHAINS * LENGTH)
#define WHEEL 4
#define X 3
static unsigned char value[CHAINS * (LENGTH + 1)];   /* 0, 1, 3 = x */
static unsigned char pending[GATES]; static long due[GATES];
static int wheel[WHEEL][GATES], count[WHEEL], changed[GATES], changes;

static void evaluate(int chain, int k, long now) {
    int gate = chain * LENGTH + k, at = chain * (LENGTH + 1) + k, in = value[at];
    int other = 1;                                   /* the second input of a nand; a not behaves as if it had one */
    int out = in == 0 || other == 0 ? 1 : in == X || other == X ? X : 0;
    int rise = k % 2 ? 2 : 1, fall = k % 2 ? 1 : 2;
    if (due[gate] > now && pending[gate] == out) return;
    if (value[at + 1] == out) { due[gate] = 0; return; }
    pending[gate] = out;
    due[gate] = now + (out == 1 ? rise : out == 0 ? fall : 1);
    int slot = due[gate] % WHEEL;
    wheel[slot][count[slot]++] = gate;
}
int main(int argc, char **argv) {
    long rounds = argc > 1 ? atol(argv[1]) : 20, now = 0;
    int a = 0;
    (void)argc;
    for (unsigned i = 0; i < sizeof value; i++) value[i] = X;
    for (long round = 0; round <= rounds; round++) {
        for (int c = 0; c < CHAINS; c++) { value[c * (LENGTH + 1)] = a; }
        for (int c = 0; c < CHAINS; c++) evaluate(c, 0, now);
        for (long end = (round + 1) * 1000; now < end; now++) {
            int slot = now % WHEEL;
            changes = 0;
            for (int i = 0; i < count[slot]; i++) {
                int gate = wheel[slot][i];
                if (due[gate] != now) continue;
                due[gate] = 0;
                value[gate / LENGTH * (LENGTH + 1) + gate % LENGTH + 1] = pending[gate];
                if (gate % LENGTH + 1 < LENGTH) changed[changes++] = gate;
            }
            count[slot] = 0;
            for (int i = 0; i < changes; i++) evaluate(changed[i] / LENGTH, changed[i] % LENGTH + 1, now);
        }
        a = !a;
    }
    printf("%d\n", value[LENGTH]);
    return 0;
}
