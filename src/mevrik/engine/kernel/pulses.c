/* Module paths with pulse limits: which pulses pass, become x or vanish (IEEE 1364-2005 14.6). Between two scheduled changes of an
 * output lies a pulse; its width decides, so more than one change can be on its way. */
#include "kernel.h"

typedef struct { u64 time; u32 driver, site, before; u8 v, u, off; } Edge;   /* before: the one that is scheduled just before it; 0 none */
static Edge *edges; static u64 edge_room; static u32 edge_count, free_edge;
static u32 *last_of; static u32 last_room;      /* by driver: the change that is scheduled last */
enum { ON_DETECT = 1, SHOW_CANCELLED = 2 };

void pulses_begin(void) {
    edge_count = 1; free_edge = 0;
    memset(last_of, 0, last_room * sizeof *last_of);
}

static u32 *last(u32 driver) {
    if (driver >= last_room) {
        u32 room = driver * 2 + 64;
        last_of = realloc(last_of, room * sizeof *last_of);
        memset(last_of + last_room, 0, (room - last_room) * sizeof *last_of);
        last_room = room;
    }
    return &last_of[driver];
}

static void append(u32 driver, u32 site, u32 v, u32 u, u64 time) {
    u32 number = free_edge;
    if (number) free_edge = edges[number].before;
    else {
        if (edge_count >= edge_room) edges = realloc(edges, (edge_room = edge_room * 2 + 64) * sizeof *edges);
        number = edge_count++;
    }
    u32 *end = last(driver);
    edges[number] = (Edge){time, driver, site, *end, (u8)v, (u8)u, 0};
    *end = number;
    push_pulse(time, number);
}

/* The change that is scheduled last does not happen; its place is free when its time has come. */
static void take_back(u32 *end) {
    edges[*end].off = 1;
    *end = edges[*end].before;
}

static void now_unknown(u32 driver, u32 site) {
    Driver *d = &K.drivers[driver];
    d->site = site;
    drive_bit(d, 1, 1);
}

/* A limit of all ones is the delay itself. */
void k_drive_pulse(u32 driver, u32 site, const u64 *val, const u64 *unk, u64 ticks, u64 reject, u64 error, u32 style) {
    u32 v = val[0] & 1, u = unk[0] & 1, *end = last(driver);
    const u64 time = K.now + ticks;
    if (reject == ~0ULL) reject = ticks;
    if (error == ~0ULL) error = ticks;
    if (error < reject) error = reject;
    for (;;) {
        const u8 *own = K.mem + K.drivers[driver].offset;
        const Edge *lead = *end ? &edges[*end] : 0;
        if (v == (lead ? lead->v : own[0]) && u == (lead ? lead->u : own[1])) return;
        if (!lead) break;
        const u64 start = lead->time;
        if (time < start) {                                         /* the end would come before the beginning (14.6.4.2) */
            take_back(end);
            if (!(style & SHOW_CANCELLED)) continue;
            if (style & ON_DETECT) { while (*end) take_back(end); now_unknown(driver, site); }
            else append(driver, site, 1, 1, time);
            append(driver, site, v, u, start);
            return;
        }
        if (time - start >= error) break;
        if (time - start < reject) { take_back(end); continue; }
        if (style & ON_DETECT) { while (*end) take_back(end); now_unknown(driver, site); }
        else { edges[*end].v = edges[*end].u = 1; edges[*end].site = site; }
        break;
    }
    if (!ticks && !*end) { K.drivers[driver].site = site; drive_bit(&K.drivers[driver], v, u); return; }
    append(driver, site, v, u, time);
}

void pulse_due(u32 number) {
    const Edge e = edges[number];
    edges[number].before = free_edge;
    free_edge = number;
    if (e.off) return;
    u32 *end = last(e.driver);
    if (*end == number) *end = 0;
    else for (u32 k = *end; k; k = edges[k].before) if (edges[k].before == number) { edges[k].before = 0; break; }
    K.drivers[e.driver].site = e.site;
    drive_bit(&K.drivers[e.driver], e.v, e.u);
}
