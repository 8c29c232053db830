/* The table of a user-defined primitive (IEEE 1364-2005 clause 8); lang/verilog/elaborate/primitives.py packs the rows. */
#include "kernel.h"

static u32 level(u64 v, u64 u, u32 bit) { return u >> bit & 1 ? 4 : v >> bit & 1 ? 2 : 1; }     /* z counts as x */

enum { OUT_0, OUT_1, OUT_X, OUT_KEEP };

/* The output of the first row that fits; `changed` is the input that has an edge, ~0 if none: then rows with an edge don't fit. */
static u32 find(const u8 *rows, u32 count, u32 n, const u32 *now, const u32 *before, u32 changed, u32 state, int edges) {
    for (u32 r = 0; r < count; r++, rows += 2 * n + 2) {
        int fits = (rows[2 * n] & state) != 0, has_edge = 0;
        for (u32 i = 0; i < n && fits; i++) {
            u32 after = rows[2 * i], from = rows[2 * i + 1];
            if (!(after & now[i])) fits = 0;
            if (from) { has_edge = 1; if (i != changed || !(from & before[i])) fits = 0; }
        }
        if (fits && has_edge == edges) return rows[2 * n + 1];
    }
    return ~0u;
}

/* Inputs are packed with the first one highest. Level-sensitive rows go before edge-sensitive ones (8.8); what no row names is x.
 * Of inputs that changed together each one's edge is looked at, with the others as they are now. Gives value and unknown in bits 0 and 1. */
u32 k_lookup(const u8 *rows, u32 count, u32 n, u32 sequential, u64 now_v, u64 now_u, u64 before_v, u64 before_u, u32 state_v, u32 state_u) {
    u32 now[64], before[64], state = state_u ? 4 : state_v ? 2 : 1, out;
    for (u32 i = 0; i < n; i++) {
        now[i] = level(now_v, now_u, n - 1 - i);
        before[i] = sequential ? level(before_v, before_u, n - 1 - i) : now[i];
    }
    if (!sequential) {
        out = find(rows, count, n, now, before, ~0u, 7, 0);
        return out == OUT_0 ? 0 : out == OUT_1 ? 1 : 3;
    }
    for (u32 i = 0; i < n; i++) {
        if (now[i] == before[i]) continue;
        out = find(rows, count, n, now, before, i, state, 0);
        if (out == ~0u) out = find(rows, count, n, now, before, i, state, 1);
        if (out != OUT_KEEP) state = out == OUT_0 ? 1 : out == OUT_1 ? 2 : 4;
    }
    return state == 1 ? 0 : state == 2 ? 1 : 3;
}
