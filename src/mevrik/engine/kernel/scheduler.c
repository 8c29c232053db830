/* Regions, time, processes (IEEE 1364-2005 clause 11). */
#include <setjmp.h>
#include <time.h>
#include "kernel.h"

Kernel K;
static jmp_buf escape;

typedef struct { u32 sig, site, elem, width, words, spare; i64 low; u64 val, unk; } Update;
typedef struct { u64 time, order; u32 kind, a; u64 b; } Event;
enum { EV_WAKE, EV_UPDATE, EV_DRIVER };
typedef struct { u32 fn; Frame *frame; } Late;

static struct { u64 offset; u32 width, bytes; } *quick;   /* by signal; bytes 0: not a plain four-state one of up to 64 bits */
static u32 *active; static u64 active_head, active_tail, active_mask;
static u32 *inactive; static u64 inactive_count, inactive_room;
static Update *updates; static u64 update_count, update_room;
static Event *heap; static u64 heap_count, heap_room, heap_order;
static Late *strobes; static u64 strobe_count, strobe_room;
static Late monitor; static u32 monitor_on, monitor_fresh;
u32 in_monitor;                        /* 1: compare first, 2: print in any case */
static Wait **wait_lists, *wait_free;


static const u8 EDGES[4][4] = {        /* [was][is]: bit 0 posedge, bit 1 negedge (9.7.2); codes 0, 1, z, x */
    {0, 1, 1, 1}, {2, 0, 2, 2}, {2, 1, 0, 0}, {2, 1, 0, 0}};

static void *grow(void *p, u64 *room, u64 need, size_t size) {
    if (need <= *room) return p;
    u64 n = *room ? *room * 2 : 64;
    while (n < need) n *= 2;
    *room = n;
    p = realloc(p, n * size);
    if (!p) { fprintf(stderr, "mevrik: out of memory\n"); _Exit(70); }
    return p;
}

void k_stop(u32 how, u32 site, const char *message) {
    K.ended = how;
    K.error_site = site;
    snprintf(K.error, sizeof K.error, "%s", message);
    longjmp(escape, 1);
}

/* The queue has room for every process, each at most once; see new_proc. */
static inline void queue(u32 p) { active[active_tail++ & active_mask] = p; }

static void schedule(u32 p) {
    Proc *q = &K.procs[p];
    if (!(q->state & (QUEUED | STATIC))) { q->state |= QUEUED; queue(p); }
    else if (q->state & ARMED) { q->state &= ~ARMED; queue(p); }
}

static void drop_waits(Proc *p) {
    for (Wait *w = p->waits; w;) {
        Wait *sibling = w->sibling;
        *w->back = w->next;
        if (w->next) w->next->back = w->back;
        if (!wait_lists[w->sig]) K.watch[w->sig] &= (u8)~WATCH_WAIT;
        w->next = wait_free; wait_free = w;
        w = sibling;
    }
    p->waits = 0;
}

void k_wait(u32 sig, u32 edge, u32 tag) {
    Wait *w = wait_free;
    if (w) wait_free = w->next;
    else w = malloc(sizeof *w);
    Proc *p = &K.procs[K.cur];
    *w = (Wait){K.cur, sig, edge, tag, wait_lists[sig], &wait_lists[sig], p->waits};
    if (w->next) w->next->back = &w->next;
    wait_lists[sig] = w;
    p->waits = w;
    K.watch[sig] |= WATCH_WAIT;
}

static void wake_waiting(u32 sig, u32 edge) {
    /* waking unlinks nodes, perhaps the next one too: first note whom to wake; FIFO order needs the oldest first */
    static u32 *woken; static u64 room;
    u64 n = 0;
    for (Wait *w = wait_lists[sig]; w; w = w->next)
        if (w->edge == EDGE_ANY || (w->edge & edge)) {
            Proc *p = &K.procs[w->proc];
            if (!(p->state & QUEUED)) p->reason = w->tag;
            woken = grow(woken, &room, n + 1, sizeof *woken);
            woken[n++] = w->proc;
        }
    while (n) {
        u32 p = woken[--n];
        drop_waits(&K.procs[p]);
        schedule(p);
    }
}

void k_changed(u32 sig, u32 site, u32 was, u32 is) {
    u32 watch = K.watch[sig];
    K.ring[K.ring_at++ & 63] = site;
    u32 edge = EDGES[was][is];
    if (LIKELY(watch & WATCH_FAN)) {
        const Sig *s = &K.sigs[sig];
        const Fan *f = &K.fans[s->fan_first], *end = f + s->fan_count;
        Proc *procs = K.procs;
        u64 tail = active_tail;
        for (; f != end; f++) {
            Proc *p = &procs[f->proc];
            if ((p->state & ARMED) && (f->edge == EDGE_ANY || (f->edge & edge))) {
                p->state &= ~ARMED;
                active[tail++ & active_mask] = f->proc;
            }
        }
        active_tail = tail;
    }
    if (UNLIKELY(watch & WATCH_RECORD)) record_change(sig, site);
    if (UNLIKELY(watch & WATCH_WAIT)) wake_waiting(sig, edge);
}

/* ---- time ---- */

static void push_event(u64 time, u32 kind, u32 a, u64 b) {
    heap = grow(heap, &heap_room, heap_count + 1, sizeof *heap);
    Event e = {time, heap_order++, kind, a, b};
    u64 i = heap_count++;
    while (i) {
        u64 up = (i - 1) / 2;
        if (heap[up].time < e.time || (heap[up].time == e.time && heap[up].order < e.order)) break;
        heap[i] = heap[up];
        i = up;
    }
    heap[i] = e;
}

static Event pop_event(void) {
    Event first = heap[0], e = heap[--heap_count];
    u64 i = 0;
    for (;;) {
        u64 c = 2 * i + 1;
        if (c >= heap_count) break;
        if (c + 1 < heap_count &&
            (heap[c + 1].time < heap[c].time || (heap[c + 1].time == heap[c].time && heap[c + 1].order < heap[c].order))) c++;
        if (e.time < heap[c].time || (e.time == heap[c].time && e.order < heap[c].order)) break;
        heap[i] = heap[c];
        i = c;
    }
    heap[i] = e;
    return first;
}

void k_delay(u64 ticks) {
    if (!ticks) {
        inactive = grow(inactive, &inactive_room, inactive_count + 1, sizeof *inactive);
        inactive[inactive_count++] = K.cur;
        return;
    }
    u64 time = K.now + ticks;
    if (time < K.now) return;           /* beyond the end of time: never */
    push_event(time, EV_WAKE, K.cur, K.procs[K.cur].generation);
}

static Update *new_update(void) {
    updates = grow(updates, &update_room, update_count + 1, sizeof *updates);
    return &updates[update_count++];
}

static void fill_update(Update *u, u32 sig, u32 site, u32 elem, i64 low, u32 width, const u64 *val, const u64 *unk) {
    u32 words = words_of(width);
    *u = (Update){sig, site, elem, width, words, 0, low, val[0], unk[0]};
    if (words > 1) {
        u64 *copy = malloc(2 * words * sizeof *copy);
        memcpy(copy, val, words * 8);
        memcpy(copy + words, unk, words * 8);
        u->val = (u64)(uintptr_t)copy;
    }
}

void k_schedule64(u32 sig, u32 site, u32 width, u64 val, u64 unk) {
    Update *u = new_update();
    *u = (Update){sig, site, 0, width, 1, 0, 0, val, unk};
}

void k_schedule(u32 sig, u32 site, u32 elem, i64 low, u32 width, const u64 *val, const u64 *unk, u64 ticks) {
    if (!ticks) { fill_update(new_update(), sig, site, elem, low, width, val, unk); return; }
    Update *u = malloc(sizeof *u);
    fill_update(u, sig, site, elem, low, width, val, unk);
    push_event(K.now + ticks, EV_UPDATE, 0, (u64)(uintptr_t)u);
}

static void perform(const Update *u) {
    if (u->words > 1) {
        u64 *copy = (u64 *)(uintptr_t)u->val;
        k_write(u->sig, u->site, u->elem, u->low, u->width, copy, copy + u->words);
        free(copy);
        return;
    }
    u32 bytes = quick[u->sig].bytes;
    if (LIKELY(bytes && u->width == quick[u->sig].width && !u->low)) {
        u8 *at = K.mem + quick[u->sig].offset;
        u64 val = 0, unk = 0;
        switch (bytes) {
        case 1: val = at[0]; unk = at[1]; if (val == u->val && unk == u->unk) return; at[0] = (u8)u->val; at[1] = (u8)u->unk; break;
        case 2: val = ((u16 *)at)[0]; unk = ((u16 *)at)[1]; if (val == u->val && unk == u->unk) return;
            ((u16 *)at)[0] = (u16)u->val; ((u16 *)at)[1] = (u16)u->unk; break;
        case 4: val = ((u32 *)at)[0]; unk = ((u32 *)at)[1]; if (val == u->val && unk == u->unk) return;
            ((u32 *)at)[0] = (u32)u->val; ((u32 *)at)[1] = (u32)u->unk; break;
        default: val = ((u64 *)at)[0]; unk = ((u64 *)at)[1]; if (val == u->val && unk == u->unk) return;
            ((u64 *)at)[0] = u->val; ((u64 *)at)[1] = u->unk;
        }
        K.changes++;
        if (K.watch[u->sig])
            k_changed(u->sig, u->site, (u32)((val & 1) | (unk & 1) << 1), (u32)((u->val & 1) | (u->unk & 1) << 1));
        return;
    }
    k_write(u->sig, u->site, u->elem, u->low, u->width, &u->val, &u->unk);
}

/* ---- delayed drivers: inertial (6.1.3, 7.14) ---- */

void k_drive_after(u32 number, u32 site, const u64 *val, const u64 *unk, u64 rise, u64 fall, u64 off) {
    Driver *d = &K.drivers[number];
    u32 words = words_of(d->width);
    u8 *now = K.mem + d->offset, *next = now + 2 * (u64)d->bytes;
    u64 v[words], u[words];
    int same_next = 1, same_now = 1, all_z = 1, any = 0, unknown = 0;
    bits_load(next, d->bytes, v); bits_load(next + d->bytes, d->bytes, u);
    for (u32 i = 0; i < words; i++) same_next &= v[i] == val[i] && u[i] == unk[i];
    bits_load(now, d->bytes, v); bits_load(now + d->bytes, d->bytes, u);
    for (u32 i = 0; i < words; i++) {
        u64 ones = i + 1 == words && d->width % 64 ? low_ones(d->width % 64) : ~0ULL;
        same_now &= v[i] == val[i] && u[i] == unk[i];
        all_z &= !val[i] && unk[i] == ones;
        any |= (val[i] & ~unk[i]) != 0;
        unknown |= unk[i] != 0;
    }
    if (d->pending) {
        if (same_next) return;
        d->generation++;
        d->pending = 0;
    }
    if (same_now) return;
    u64 least = rise < fall ? rise : fall;
    if (off < least) least = off;
    u64 ticks = all_z ? off : (d->width == 1 && unknown) ? least : any ? rise : unknown ? least : fall;
    memcpy(next, val, d->bytes < 8 ? d->bytes : words * 8);
    memcpy(next + d->bytes, unk, d->bytes < 8 ? d->bytes : words * 8);
    d->site = site;
    d->pending = 1;
    push_event(K.now + ticks, EV_DRIVER, number, d->generation);
}

static void driver_due(u32 number, u32 generation) {
    Driver *d = &K.drivers[number];
    if (d->generation != generation || !d->pending) return;
    d->pending = 0;
    u32 words = words_of(d->width);
    u64 v[words], u[words];
    u8 *next = K.mem + d->offset + 2 * (u64)d->bytes;
    bits_load(next, d->bytes, v); bits_load(next + d->bytes, d->bytes, u);
    k_drive(number, d->site, v, u);
}

/* ---- processes ---- */

static u32 new_proc(void) {
    if (K.proc_count == K.proc_room) {
        K.proc_room = K.proc_room * 2 + 16;
        K.procs = realloc(K.procs, K.proc_room * sizeof *K.procs);
        if (active_mask <= K.proc_room) {
            u64 size = active_mask + 1, bigger = size;
            while (bigger <= K.proc_room) bigger *= 2;
            u32 *moved = malloc(bigger * sizeof *moved);
            u64 count = active_tail - active_head;
            for (u64 i = 0; i < count; i++) moved[i] = active[(active_head + i) & active_mask];
            free(active);
            active = moved; active_head = 0; active_tail = count; active_mask = bigger - 1;
        }
    }
    K.procs[K.proc_count].generation = 0;
    return K.proc_count++;
}

static Frame *new_frame(u32 fn, u32 size, Frame *parent, Frame *link, u8 *inst, u32 proc) {
    Frame *f = calloc(1, size);
    if (!f) k_stop(ENDED_ERROR, 0, "out of memory for the frames of tasks");
    f->fn = fn; f->parent = parent; f->link = link; f->inst = inst; f->proc = proc;
    return f;
}

Frame *k_call(u32 fn, u32 size, Frame *from) {
    u32 depth = from->spare & 0xffffffff;
    if (depth > 100000) k_stop(ENDED_ERROR, K.ring[(K.ring_at - 1) & 63], "a task calls itself without end (100000 calls deep)");
    Frame *f = new_frame(fn, size, from, 0, from->inst, from->proc);
    f->spare = depth + 1;
    K.procs[from->proc].top = f;
    return f;
}

void k_return(Frame *f) { K.procs[f->proc].top = f->parent; }
void k_free(Frame *f) { free(f); }

static void end_process(u32 number) {
    Proc *p = &K.procs[number];
    p->state |= DEAD;
    Frame *join = p->join;
    if (join) {
        u32 waiting = join->pending;
        if (join->pending) join->pending--;
        if (waiting && (join->pending == 0 || p->join_any)) {
            if (p->join_any) join->pending = 0;
            schedule(join->proc);
        }
    }
}

/* A branch of a fork; `join` 0: join, 1: join_any, 2: join_none. */
void k_fork(u32 fn, u32 size, Frame *from, u32 join) {
    u32 number = new_proc();
    Proc *p = &K.procs[number];
    u32 generation = p->generation + 1;
    memset(p, 0, sizeof *p);
    p->generation = generation;
    p->top = new_frame(fn, size, 0, from, from->inst, number);
    if (join != 2) { p->join = from; p->join_any = join == 1; from->pending++; }
    schedule(number);
}

/* Ends what other processes do inside a block: their frames of function `fn` whose state lies in [low, high) go on at `state`. */
void k_disable(u32 fn, u8 *inst, u32 low, u32 high, u32 state) {
    for (u32 n = 0; n < K.proc_count; n++) {
        Proc *p = &K.procs[n];
        if ((p->state & DEAD) || !p->top || n == K.cur) continue;
        for (Frame *f = p->top; f; f = f->parent)
            if (f->fn == fn && f->inst == inst && f->state >= low && f->state < high) {
                drop_waits(p);
                p->generation++;
                p->state &= ~QUEUED;
                for (u64 i = active_head; i < active_tail; i++)
                    if (active[i & active_mask] == n) active[i & active_mask] = ~0u;
                for (u64 i = 0; i < inactive_count; i++)
                    if (inactive[i] == n) inactive[i] = ~0u;
                for (u32 c = 0; c < K.proc_count; c++)       /* branches forked inside the block end too */
                    if (K.procs[c].join == f && !(K.procs[c].state & DEAD)) {
                        drop_waits(&K.procs[c]);
                        K.procs[c].state |= DEAD; K.procs[c].generation++; K.procs[c].join = 0;
                    }
                f->pending = 0;
                while (p->top != f) { Frame *gone = p->top; p->top = gone->parent; free(gone); }
                f->state = state;
                schedule(n);
                break;
            }
    }
}

static void run(u32 number) {
    Proc *p = &K.procs[number];
    p->state &= ~QUEUED;
    if (p->state & DEAD) return;
    for (;;) {
        Frame *f = K.procs[number].top;
        u32 what = K.fns[f->fn](K.mem, f);
        if (what == 0) return;                       /* waits */
        if (what == 2) { end_process(number); return; }
    }
}

/* Called now and then from loops: the only way out of one that never waits. */
void k_loop(u32 site) {
    static u64 seen;
    if (seen != K.steps) { seen = K.steps; K.loops = 0; }
    K.loops += 4096;
    if (K.attention && K.cancel) k_stop(ENDED_CANCEL, site, "cancelled");
    if (K.loops > K.loop_limit) k_stop(ENDED_ERROR, site, "this loop never ends: it runs on without any delay or event control, so time stands still (an endless zero-delay loop)");
}

void k_stack(u32 depth, u32 site) {
    if (depth > 20000) k_stop(ENDED_ERROR, site, "a function calls itself without end");
}

/* ---- postponed ---- */

void k_strobe(u32 fn, Frame *f) {
    strobes = grow(strobes, &strobe_room, strobe_count + 1, sizeof *strobes);
    strobes[strobe_count++] = (Late){fn, f};
}
void k_monitor(u32 fn, Frame *f) { monitor = (Late){fn, f}; monitor_on = 1; monitor_fresh = 1; }
void k_monitor_switch(u32 on) { if (on && !monitor_on) monitor_fresh = 1; monitor_on = on; }

static void postponed(void) {
    for (u64 i = 0; i < strobe_count; i++) K.fns[strobes[i].fn](K.mem, strobes[i].frame);
    strobe_count = 0;
    if (monitor.frame && monitor_on) {
        in_monitor = monitor_fresh ? 2 : 1;
        monitor_fresh = 0;
        K.fns[monitor.fn](K.mem, monitor.frame);
        in_monitor = 0;
    }
}

/* ---- the run ---- */

static void use_code(ProcFn *fns) {
    K.fns = fns;
    for (u32 n = 0; n < K.proc_count; n++)
        if (K.procs[n].state & STATIC) K.procs[n].fn = fns[K.procs[n].top->fn];
}

static __attribute__((noinline)) void attend(void) {
    K.attention = 0;
    if (K.swap) { K.swap = 0; use_code(K.fns_next); }
    if (K.flush) { K.flush = 0; out_flush(); record_flush(); }
    if (K.cancel) k_stop(ENDED_CANCEL, 0, "cancelled");
}

static __attribute__((noinline, cold)) void never_settles(void) {
    k_stop(ENDED_ERROR, K.ring[(K.ring_at - 1) & 63], "the design never settles: it goes round a loop without delay, so time stands still");
}

static void run_batch(void) {
    u64 stop = active_tail;
    if (UNLIKELY(K.attention)) attend();
    K.steps += stop - active_head;
    while (active_head != stop && active_head != active_tail) {
        u32 number = active[active_head++ & active_mask];
        if (UNLIKELY(number == ~0u)) continue;
        Proc *p = &K.procs[number];
        K.cur = number;
        if (LIKELY(p->state & STATIC)) {
            if (p->state & EAGER) {
                p->state |= ARMED;
                p->fn(K.mem, p->top);
            } else {
                p->fn(K.mem, p->top);
                K.procs[number].state |= ARMED;
            }
        } else run(number);
    }
    K.delta++;
    if (UNLIKELY(++K.batches > K.delta_limit)) never_settles();
}

static __attribute__((noinline)) void settle(void) {
    for (;;) {
        if (active_head != active_tail) {
            run_batch();
        } else if (inactive_count) {
            for (u64 i = 0; i < inactive_count; i++)
                if (inactive[i] != ~0u && !(K.procs[inactive[i]].state & DEAD)) schedule(inactive[i]);
            inactive_count = 0;
        } else if (update_count) {
            for (u64 i = 0; i < update_count; i++) perform(&updates[i]);      /* adds no updates: it runs no process */
            update_count = 0;
        } else {
            return;
        }
    }
}

u32 k_run(u64 limit) {
    K.limit = limit;
    K.ended = ENDED_QUIET;
    if (setjmp(escape)) {
        if (K.ended == ENDED_FINISH || K.ended == ENDED_STOP) {
            update_count = 0;           /* $finish ends the run at once; pending strobes of this moment still print (18.2) */
        }
        out_flush();
        record_flush();
        return K.ended;
    }
    for (;;) {
        settle();
        postponed();
        if (active_head != active_tail || update_count || inactive_count) continue;
        if (K.attention) attend();
        if (K.pause) { K.pause = 0; K.ended = ENDED_PAUSE; break; }
        if (!heap_count) { K.ended = ENDED_QUIET; break; }
        if (heap[0].time > limit) { K.ended = ENDED_LIMIT; K.now = limit; break; }
        u64 time = heap[0].time;
        if (time != K.now) { K.now = time; K.delta = 0; K.batches = 0; }
        while (heap_count && heap[0].time == time) {
            Event e = pop_event();
            if (e.kind == EV_WAKE) {
                if (K.procs[e.a].generation == (u32)e.b && !(K.procs[e.a].state & DEAD)) schedule(e.a);
            } else if (e.kind == EV_DRIVER) {
                driver_due(e.a, (u32)e.b);
            } else {
                Update *u = (Update *)(uintptr_t)e.b;
                *new_update() = *u;
                free(u);
            }
        }
    }
    out_flush();
    record_flush();
    return K.ended;
}

void k_finish(u32 how, u32 site) {
    K.ended = how;
    K.error_site = site;
    K.error[0] = 0;
    longjmp(escape, 1);
}

/* ---- set-up ---- */

Kernel *k_open(u8 *mem, u8 *watch, Sig *sigs, u32 sig_count, Fan *fans, Driver *drivers, u32 proc_count, u32 fn_count) {
    memset(&K, 0, sizeof K);
    K.mem = mem; K.watch = watch; K.sigs = sigs; K.sig_count = sig_count; K.fans = fans; K.drivers = drivers;
    K.proc_count = K.proc_room = proc_count;
    K.procs = calloc(proc_count + 1, sizeof *K.procs);
    K.fn_count = fn_count;
    K.delta_limit = 1000000;
    K.loop_limit = 1ULL << 28;
    quick = calloc(sig_count + 1, sizeof *quick);
    for (u32 i = 0; i < sig_count; i++) {
        const Sig *s = &sigs[i];
        if (s->bytes <= 8 && s->elements == 1 && s->planes == 2 && !(s->flags & FLAG_FORCIBLE)) {
            quick[i].offset = s->offset; quick[i].width = s->width; quick[i].bytes = s->bytes;
        }
    }
    active_mask = 1023;
    while (active_mask < proc_count) active_mask = 2 * active_mask + 1;
    active = malloc((active_mask + 1) * sizeof *active);
    active_head = active_tail = inactive_count = update_count = heap_count = heap_order = strobe_count = 0;
    wait_free = 0;
    monitor = (Late){0, 0};
    wait_lists = calloc(sig_count + 1, sizeof *wait_lists);
    K.time_unit = 99; K.time_width = 20;
    return &K;
}

/* `start` 1: runs at time 0; 0: waits for its first event. `sense` 0: waits by itself, 1: static fan-out, 2: eager as well. */
void k_process(u32 number, u32 fn, u64 frame, u64 inst, u32 sense, u32 start) {
    Frame *f = (Frame *)(K.mem + frame);
    Proc *p = &K.procs[number];
    f->fn = fn; f->inst = K.mem + inst; f->proc = number;
    p->top = f;
    p->state = sense ? STATIC | ARMED | (sense > 1 ? EAGER : 0) : 0;
    p->fn = K.fns[fn];
    if (start) schedule(number);
}

u32 k_reason(void) { u32 r = K.procs[K.cur].reason; K.procs[K.cur].reason = 0; return r; }
