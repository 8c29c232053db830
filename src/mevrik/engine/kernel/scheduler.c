/* Regions, time, processes (IEEE 1364-2005 clause 11). */
#include <setjmp.h>
#include <time.h>
#include "kernel.h"
#include "typed.h"

Kernel K;
const u32 kernel_size = sizeof(Kernel), driver_size = sizeof(Driver), switch_size = sizeof(Switch);      /* engine/abi.py mirrors them */
static jmp_buf escape;

typedef struct { u32 sig, site; u64 val, unk; } Update;      /* a whole signal of up to 64 bits; sig ~0: `val` is a Part * */
typedef struct { u32 sig, site, elem, width; i64 low; u64 planes[]; } Part;
typedef struct { u64 time, order; u32 kind, a; u64 b; } Event;
enum { EV_WAKE, EV_UPDATE, EV_DRIVER, EV_DECAY, EV_TYPED, EV_PULSE };

static Scheduler *S;
static u32 *active;
static u8 *armed;
static u32 *inactive; static u64 inactive_count, inactive_room;
static u32 *reactive; u64 reactive_count; static u64 reactive_room;
static Update *updates; static u64 update_count, update_room;
static Event *heap; u64 heap_count; static u64 heap_room, heap_order;
static Wait **wait_lists, *wait_free;


static const u8 EDGES[4][4] = {        /* [was][is]: bit 0 posedge, bit 1 negedge (9.7.2); codes 0, 1, z, x */
    {0, 1, 1, 1}, {2, 0, 2, 2}, {2, 1, 0, 0}, {2, 1, 0, 0}};

void *grow(void *p, u64 *room, u64 need, size_t size) {
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

/* The process that runs has ended by what it called: go on with the others. */
static int left;
void leave_process(void) { left = 1; longjmp(escape, 1); }

static inline void queue(u32 p) {
    if (UNLIKELY(S->tail - S->head > S->mask)) k_stop(ENDED_ERROR, S->ring[(S->ring_at - 1) & 63], "more processes run at once than can be queued");
    active[S->tail++ & S->mask] = p;
}

static void schedule(u32 p) {
    Proc *q = &K.procs[p];
    if (q->state & REACTIVE) {
        if (q->state & QUEUED) return;
        q->state |= QUEUED;
        K.beside = 1;
        reactive = grow(reactive, &reactive_room, reactive_count + 1, sizeof *reactive);
        reactive[reactive_count++] = p;
    } else if (!(q->state & (QUEUED | STATIC))) { q->state |= QUEUED; queue(p); }
    else if ((q->state & STATIC) && armed[p]) { armed[p] = 0; queue(p); }
}

void drop_waits(Proc *p) {
    for (Wait *w = p->waits; w;) {
        Wait *sibling = w->sibling;
        *w->back = w->next;
        if (w->next) w->next->back = w->back;
        if (!wait_lists[w->sig] && w->sig < K.sig_count) K.watch[w->sig] &= (u8)~WATCH_WAIT;
        w->next = wait_free; wait_free = w;
        w = sibling;
    }
    p->waits = 0;
}

static void wait_in(u32 sig, u32 edge, u32 tag) {
    Wait *w = wait_free;
    if (w) wait_free = w->next;
    else w = malloc(sizeof *w);
    Proc *p = &K.procs[K.cur];
    *w = (Wait){K.cur, sig, edge, tag, wait_lists[sig], &wait_lists[sig], p->waits};
    if (w->next) w->next->back = &w->next;
    wait_lists[sig] = w;
    p->waits = w;
}
void k_wait(u32 sig, u32 edge, u32 tag) {
    wait_in(sig, edge, tag);
    K.watch[sig] |= WATCH_WAIT;
}

static void wake_waiting(u32 sig, u32 edge) {
    /* waking unlinks nodes, perhaps the next one too: first note whom to wake; FIFO order needs the oldest first */
    static u32 *woken; static u64 room;
    u64 n = 0;
    for (Wait *w = wait_lists[sig]; w; w = w->next)
        if (w->edge == EDGE_ANY || (w->edge & edge)) {
            Proc *p = &K.procs[w->proc];
            if (UNLIKELY(p->state & SUSPENDED) && w->tag != TAG_CONDITION) continue;     /* it does not see the event (1800-2017 9.7) */
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

/* For what is no signal (engine/lower/contents.py) there is one list, behind those of the signals. */
void k_wait_contents(u32 tag) { wait_in(K.sig_count, EDGE_ANY, tag); }
void k_contents_changed(void) { if (UNLIKELY(wait_lists[K.sig_count] != 0)) wake_waiting(K.sig_count, 0); }

/* ---- sampled values: what a signal held before this moment (IEEE 1800-2017 4.4.2.1, 16.5.1) ---- */

typedef struct { u32 from, to, changed, other; } Sample;                       /* other: another one of the same signal, plus one */
static Sample *samples; static u32 sample_count; static u32 *sample_of;      /* by signal, its last one, plus one */
static u32 *sampled_now; static u32 sampled_count;

static void take_sample(const Sample *s) {
    const Sig *a = &K.sigs[s->from], *b = &K.sigs[s->to];
    memcpy(K.mem + b->offset, K.mem + a->offset, (u64)a->bytes * a->planes * a->elements);
}
static void sample_changed(u32 sig) {
    Sample *s = &samples[sample_of[sig] - 1];
    K.beside = 1;
    if (!s->changed) { s->changed = 1; sampled_now[sampled_count++] = sample_of[sig] - 1; }
}
static void take_samples(void) {
    for (u32 i = 0; i < sampled_count; i++) {
        Sample *s = &samples[sampled_now[i]];
        s->changed = 0;
        take_sample(s);
        for (u32 k = s->other; k; k = samples[k - 1].other) take_sample(&samples[k - 1]);
    }
    sampled_count = 0;
}
/* Signal `to`, of the same form, keeps what `from` held at the end of the moment before. */
void k_sample(u32 from, u32 to) {
    if (!sample_of) sample_of = calloc(K.sig_count + 1, sizeof *sample_of);
    samples = realloc(samples, (sample_count + 1) * sizeof *samples);
    sampled_now = realloc(sampled_now, (sample_count + 1) * sizeof *sampled_now);
    samples[sample_count] = (Sample){from, to, 0, sample_of[from]};
    sample_of[from] = ++sample_count;
    K.watch[from] |= WATCH_SAMPLE;
    take_sample(&samples[sample_count - 1]);
}

/* What a change does beside waking the static fan-out, which generated code does by itself where it knows the signal. */
void k_watched(u32 sig, u32 site, u32 was, u32 is) {
    u32 watch = K.watch[sig];
    if (LIKELY(!(watch & ~(WATCH_FAN | WATCH_RECORD)))) { record_change(sig, site); return; }
    if (watch & WATCH_RECORD) record_change(sig, site);
    if (watch & WATCH_WAIT) wake_waiting(sig, EDGES[was][is]);
    if (watch & WATCH_SWITCH) switch_control_changed(sig, site);
    if (watch & WATCH_SAMPLE) sample_changed(sig);
    if (watch & WATCH_DUMP) dump_changed(sig);
    if (watch & WATCH_BITS) bits_changed(sig);
    if (watch & WATCH_TYPED) bridge_in(sig, site);
}

void k_changed(u32 sig, u32 site, u32 was, u32 is) {
    if (K.commits && K.commits[sig]) { K.commits[sig](K.mem, site, was, is); return; }
    u32 watch = K.watch[sig];
    S->ring[S->ring_at++ & 63] = site;
    u32 edge = EDGES[was][is];
    if (LIKELY(watch & WATCH_FAN)) {
        const Sig *s = &K.sigs[sig];
        const Fan *f = &K.fans[s->fan_first], *end = f + s->fan_count;
        u64 tail = S->tail, mask = S->mask;
        for (; f != end; f++)
            if (armed[f->proc] && (f->edge == EDGE_ANY || (f->edge & edge))) {
                armed[f->proc] = 0;
                active[tail++ & mask] = f->proc;
            }
        S->tail = tail;
    }
    if (UNLIKELY(watch & (WATCH_RECORD | WATCH_WAIT | WATCH_SWITCH | WATCH_SAMPLE | WATCH_DUMP | WATCH_BITS | WATCH_TYPED))) k_watched(sig, site, was, is);
}

/* The same for the net of a simple driver, for which nothing else waits. */
void wake_fan(const Driver *d, u32 was, u32 is) {
    S->ring[S->ring_at++ & 63] = d->site;
    const Fan *f = K.fans + d->fan_first, *end = f + d->fan_count;
    u64 tail = S->tail, mask = S->mask;
    for (; f != end; f++)
        if (armed[f->proc] && (f->edge == EDGE_ANY || (f->edge & EDGES[was][is]))) {
            armed[f->proc] = 0;
            active[tail++ & mask] = f->proc;
        }
    S->tail = tail;
}

/* Named events; what is said of them holds until time goes on (IEEE 1800-2017 15.5.3). */
static u64 *event_times;               /* by signal: the moment of the last trigger, plus one */
void k_trigger(u32 sig, u32 site) { event_times[sig] = K.now + 1; k_changed(sig, site, 0, 1); }
u32 k_triggered(u32 sig) { return event_times[sig] == K.now + 1; }

/* ---- time ---- */

static inline int before(const Event *a, const Event *b) { return a->time < b->time || (a->time == b->time && a->order < b->order); }

static void sift_down(const Event *e) {
    u64 i = 0;
    for (;;) {
        u64 c = 2 * i + 1;
        if (c >= heap_count) break;
        if (c + 1 < heap_count && before(&heap[c + 1], &heap[c])) c++;
        if (before(e, &heap[c])) break;
        heap[i] = heap[c];
        i = c;
    }
    heap[i] = *e;
}

/* The first event was taken and left a hole: most often the process that it woke fills it with its next event. */
static u32 hole;

static void close_hole(void) {
    hole = 0;
    Event last = heap[--heap_count];
    if (heap_count) sift_down(&last);
}

static void push_event(u64 time, u32 kind, u32 a, u64 b) {
    Event e = {time, heap_order++, kind, a, b};
    K.beside = 1;
    if (hole) { hole = 0; sift_down(&e); return; }
    heap = grow(heap, &heap_room, heap_count + 1, sizeof *heap);
    u64 i = heap_count++;
    while (i) {
        u64 up = (i - 1) / 2;
        if (before(&heap[up], &e)) break;
        heap[i] = heap[up];
        i = up;
    }
    heap[i] = e;
}

/* ---- a wheel for what delayed drivers do soon: one list for each of the next moments, in the order of scheduling ---- */

enum { WHEEL = 1024 };
typedef struct { u64 order; u32 driver, generation; } Due;
typedef struct { Due *list; u32 at, count, room; } Spoke;
static Spoke wheel[WHEEL];
static u64 wheel_bits[WHEEL / 64], wheel_count;

static void push_driver(u64 ticks, u32 driver, u32 generation) {
    if (ticks >= WHEEL) { push_event(K.now + ticks, EV_DRIVER, driver, generation); return; }
    K.beside = 1;
    u32 place = (u32)((K.now + ticks) % WHEEL);
    Spoke *s = &wheel[place];
    if (s->count == s->room) s->list = realloc(s->list, (s->room = s->room * 2 + 16) * sizeof *s->list);
    s->list[s->count++] = (Due){heap_order++, driver, generation};
    wheel_bits[place / 64] |= 1ULL << place % 64;
    wheel_count++;
}
/* The next moment at which the wheel has something; there is one. */
static u64 wheel_next(void) {
    u32 start = (u32)(K.now % WHEEL), word = start / 64;
    u64 bits = wheel_bits[word] & (~0ULL << start % 64);
    for (u32 k = 0; k <= WHEEL / 64; k++) {
        if (bits) { u32 place = word * 64 + (u32)__builtin_ctzll(bits); return K.now + (place - start) % WHEEL; }
        word = (word + 1) % (WHEEL / 64);
        bits = wheel_bits[word];
    }
    return ~0ULL;
}

void k_delay(u64 ticks) {
    if (!ticks) {
        K.beside = 1;
        inactive = grow(inactive, &inactive_room, inactive_count + 1, sizeof *inactive);
        inactive[inactive_count++] = K.cur;
        return;
    }
    u64 time = K.now + ticks;
    if (time < K.now) return;           /* beyond the end of time: never */
    push_event(time, EV_WAKE, K.cur, K.procs[K.cur].generation);
}

static inline Update *new_update(void) {
    K.beside = 1;
    updates = grow(updates, &update_room, update_count + 1, sizeof *updates);
    return &updates[update_count++];
}

void k_schedule64(u32 sig, u32 site, u32 width, u64 val, u64 unk) {
    (void)width;
    Update *u = new_update();
    u->sig = sig; u->site = site; u->val = val; u->unk = unk;
}

void k_schedule(u32 sig, u32 site, u32 elem, i64 low, u32 width, const u64 *val, const u64 *unk, u64 ticks) {
    u32 words = words_of(width);
    Part *p = malloc(sizeof *p + 16 * words);
    *p = (Part){sig, site, elem, width, low};
    memcpy(p->planes, val, words * 8);
    memcpy(p->planes + words, unk, words * 8);
    if (ticks) { push_event(K.now + ticks, EV_UPDATE, 0, (u64)(uintptr_t)p); return; }
    Update *u = new_update();
    u->sig = ~0u; u->val = (u64)(uintptr_t)p;
}

static void perform(const Update *u) {
    if (UNLIKELY(u->sig == ~0u)) {
        Part *p = (Part *)(uintptr_t)u->val;
        k_write(p->sig, p->site, p->elem, p->low, p->width, p->planes, p->planes + words_of(p->width));
        free(p);
    } else if (LIKELY(K.applies && K.applies[u->sig])) {
        K.applies[u->sig](K.mem, u->val, u->unk, u->site);
    } else {
        k_write(u->sig, u->site, 0, 0, K.sigs[u->sig].width, &u->val, &u->unk);
    }
}

/* The values of assignments that are still to come. */
void updates_scan(Scan *scan) {
    for (u64 i = 0; i < heap_count; i++) {
        const Part *p = (const Part *)(uintptr_t)heap[i].b;
        if (heap[i].kind == EV_UPDATE) scan(p->planes, 16 * (u64)words_of(p->width));
    }
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
    if (!ticks) { k_drive(number, site, val, unk); return; }
    memcpy(next, val, d->bytes < 8 ? d->bytes : words * 8);
    memcpy(next + d->bytes, unk, d->bytes < 8 ? d->bytes : words * 8);
    d->site = site;
    d->pending = 1;
    push_driver(ticks, number, d->generation);
}

static void driver_due(u32 number, u32 generation) {
    Driver *d = &K.drivers[number];
    if (d->generation != generation || !d->pending) return;
    d->pending = 0;
    if (LIKELY(d->width == 1)) { u8 *p = K.mem + d->offset; drive_bit(d, p[2], p[3]); return; }
    u32 words = words_of(d->width);
    u64 v[words], u[words];
    u8 *next = K.mem + d->offset + 2 * (u64)d->bytes;
    bits_load(next, d->bytes, v); bits_load(next + d->bytes, d->bytes, u);
    k_drive(number, d->site, v, u);
}

/* A transaction of a driver of VHDL; or, with the highest bit, the end of a wait. */
void push_typed(u64 time, u32 driver) { push_event(time, EV_TYPED, driver, driver & 0x80000000u ? K.procs[driver & 0x7fffffff].generation : 0); }
void schedule_proc(u32 p) { schedule(p); }

/* A charge that nothing drives is lost after some time (IEEE 1364-2005 4.4.2). */
void push_decay(u32 sig, u32 generation, u64 ticks) { push_event(K.now + ticks, EV_DECAY, sig, generation); }

void push_pulse(u64 time, u32 edge) { push_event(time, EV_PULSE, edge, 0); }

/* The same for a driver of one bit, with the delay to its new value. */
void drive_bit_after(u32 number, u32 site, u32 v, u32 u, u32 ticks) {
    Driver *d = &K.drivers[number];
    u8 *now = K.mem + d->offset;                             /* planes of a byte: value, unknown, and the same to come */
    if (d->pending) {
        if (now[2] == v && now[3] == u) return;
        d->generation++;
        d->pending = 0;
    }
    if (now[0] == v && now[1] == u) return;
    if (!ticks) { d->site = site; drive_bit(d, v, u); return; }
    now[2] = (u8)v; now[3] = (u8)u;
    d->site = site;
    d->pending = 1;
    push_driver(ticks, number, d->generation);
}
void disarm(u32 p) { armed[p] = 0; }
void wake_static(u32 p) { if (armed[p]) { armed[p] = 0; active[S->tail++ & S->mask] = p; } }

/* The gates that the kernel evaluates by itself are processes with numbers of their own in a row. */
static u32 cell_first, cell_count;
static inline int is_cell(u32 number) { return number - cell_first < cell_count; }
void start_cells(u32 first, u32 count) {
    cell_first = first;
    cell_count = count;
    for (u32 n = first; n < first + count; n++) {
        K.procs[n].state = STATIC | EAGER | CELL;
        armed[n] = 1;
        schedule(n);
    }
}

/* A process that ends or goes on elsewhere stands in no queue any more. */
void leave_queues(u32 n) {
    for (u64 i = S->head; i < S->tail; i++) if (active[i & S->mask] == n) active[i & S->mask] = ~0u;
    for (u64 i = 0; i < inactive_count; i++) if (inactive[i] == n) inactive[i] = ~0u;
    for (u64 i = 0; i < reactive_count; i++) if (reactive[i] == n) reactive[i] = ~0u;
}

static void run(u32 number) {
    Proc *p = &K.procs[number];
    p->state &= ~QUEUED;
    if (p->state & DEAD) return;
    if (p->state & SUSPENDED) { p->state |= MISSED; return; }
    if (p->state & STACKED) { typed_resume(number); return; }
    for (;;) {
        Frame *f = K.procs[number].top;
        u32 what = K.fns[f->fn](K.mem, f);
        if (what == 0) {                             /* waits, or ended itself */
            if (UNLIKELY(K.procs[number].state & DEAD)) bury(number);
            return;
        }
        if (what == 2) { end_process(number); bury(number); return; }
    }
}

static __attribute__((noinline, cold)) void too_heavy(u32 site) {
    char text[240];
    snprintf(text, sizeof text, "the simulation holds more than %u GiB: objects and strings of SystemVerilog stay until the run ends, allocated values of VHDL until "
             "they are deallocated", K.heavy);
    k_stop(ENDED_ERROR, site, text);
}

/* Called now and then from loops: the only way out of one that never waits. */
void k_loop(u32 site) {
    static u64 seen;
    if (seen != K.steps) { seen = K.steps; K.loops = 0; }
    K.loops += 4096;
    if (K.attention && K.cancel) k_stop(ENDED_CANCEL, site, "cancelled");
    if (K.attention && K.heavy) too_heavy(site);
    if (K.loops > K.loop_limit) k_stop(ENDED_ERROR, site, "this loop never ends: it runs on without any delay or event control, so time stands still (an endless zero-delay loop)");
}

void k_stack(u32 depth, u32 site) {
    if (depth > 20000) k_stop(ENDED_ERROR, site, "a function calls itself without end");
}

/* ---- postponed ---- */

static void postponed(void) {
    print_late();
    if (sampled_count) take_samples();
    dump_moment();
    print_monitors();
}

/* ---- the run ---- */

static void use_code(ProcFn *fns, CommitFn *commits, ApplyFn *applies, EdgeFn *edges, TypedEdgeFn *typed_edges) {
    K.fns = fns;
    K.commits = commits;
    K.applies = applies;
    K.edges = edges;
    K.typed_edges = typed_edges;
    for (u32 n = 0; n < K.proc_count; n++)
        if ((K.procs[n].state & STATIC) && !(K.procs[n].state & CELL)) K.procs[n].fn = fns[K.procs[n].top->fn];
}

static __attribute__((noinline)) void attend(void) {
    K.attention = 0;
    if (K.swap) { K.swap = 0; use_code(K.fns_next, K.commits_next, K.applies_next, K.edges_next, K.typed_edges_next); }
    if (K.flush) { K.flush = 0; out_flush(); record_flush(); }
    if (K.cancel) k_stop(ENDED_CANCEL, 0, "cancelled");
    if (K.heavy) too_heavy(S->ring[(S->ring_at - 1) & 63]);
}

static __attribute__((noinline, cold)) void never_settles(void) {
    k_stop(ENDED_ERROR, S->ring[(S->ring_at - 1) & 63], "the design never settles: it goes round a loop without delay, so time stands still");
}

/* Active events may be taken in any order (IEEE 1364-2005 11.4.2): another one than the first. */
u64 shuffled;
void k_shuffle(u64 seed) { shuffled = seed * 0x9E3779B97F4A7C15ULL | 1; }
static u64 orderly;                     /* up to here the queue keeps its order: start values come before all processes */
void k_starts(void) { orderly = S->tail; }
static __attribute__((noinline)) void choose_another(u64 stop) {
    if (S->head < orderly) return;
    u64 z = (shuffled += 0x9E3779B97F4A7C16ULL);        /* even steps: it never gets 0, which means no shuffling */
    z = (z ^ z >> 30) * 0xBF58476D1CE4E5B9ULL;
    z = (z ^ z >> 27) * 0x94D049BB133111EBULL;
    u64 other = S->head + (z ^ z >> 31) % (stop - S->head);
    u32 kept = active[S->head & S->mask];
    active[S->head & S->mask] = active[other & S->mask];
    active[other & S->mask] = kept;
}

static u64 batch_end;                  /* where the next batch ends, if not with all that is queued */

/* In a large netlist what an event needs lies far apart: it is fetched some events ahead, each thing when that which leads to it is there. */
static inline void fetch_cells(u64 at, u64 stop) {
    u32 number;
    if (at + 10 < stop && is_cell(number = active[(at + 10) & S->mask])) fetch_cell(number - cell_first);
    if (at + 5 < stop && is_cell(number = active[(at + 5) & S->mask])) fetch_inputs(number - cell_first);
}
static inline void fetch_drivers(const Due *list, u32 at, u32 count) {
    if (at + 12 < count) __builtin_prefetch(&K.drivers[list[at + 12].driver]);
    if (at + 6 < count) {
        const Driver *d = &K.drivers[list[at + 6].driver];
        __builtin_prefetch(K.mem + d->value);
        __builtin_prefetch(&K.watch[d->sig]);
        __builtin_prefetch(&K.fans[d->fan_first]);
    }
}

static void run_batch(void) {
    u64 stop = batch_end ? batch_end : S->tail;
    batch_end = 0;
    if (UNLIKELY(K.attention)) attend();
    K.steps += stop - S->head;
    while (S->head != stop && S->head != S->tail) {
        if (UNLIKELY(shuffled)) choose_another(stop);
        u32 number = active[S->head & S->mask];
        if (is_cell(number)) {
            fetch_cells(S->head++, stop);
            K.cur = number;
            armed[number] = 1;
            evaluate_cell(number - cell_first);
            continue;
        }
        S->head++;
        if (UNLIKELY(number == ~0u)) continue;
        Proc *p = &K.procs[number];
        K.cur = number;
        if (LIKELY(p->state & STATIC)) {
            if (p->state & EAGER) {
                armed[number] = 1;
                p->fn(K.mem, p->top);
            } else {
                p->fn(K.mem, p->top);
                armed[number] = 1;
                if (UNLIKELY(p->state & REACTIVE)) p->state &= ~QUEUED;
            }
        } else run(number);
    }
    K.delta++;
    if (UNLIKELY(++K.batches > K.delta_limit || K.delta > K.delta_limit)) never_settles();
}

/* `begun`: processes of a delta are queued and some have run already, so its end, with what these assigned, is still to come. */
static __attribute__((noinline)) void settle(int begun) {
    if (typed_due() && !begun) typed_update();    /* signals first, then what waited for this time (IEEE 1076-2008 14.7.5.3) */
    for (;;) {
        if (S->head != S->tail) {
            run_batch();
        } else if (typed_due()) {
            if (UNLIKELY(K.delta > K.delta_limit)) never_settles();         /* the functions of edges count their deltas, not batches */
            typed_update();
        } else if (inactive_count) {
            for (u64 i = 0; i < inactive_count; i++)
                if (inactive[i] != ~0u && !(K.procs[inactive[i]].state & DEAD)) schedule(inactive[i]);
            inactive_count = 0;
        } else if (update_count) {
            for (u64 i = 0; i < update_count; i++) perform(&updates[i]);      /* adds no updates: it runs no process */
            update_count = 0;
        } else if (reactive_count) {
            for (u64 i = 0; i < reactive_count; i++) if (reactive[i] != ~0u) queue(reactive[i]);
            reactive_count = 0;
        } else {
            return;
        }
    }
}

static void take_event(const Event *e) {
    if (e->kind == EV_WAKE) {
        if (K.procs[e->a].generation == (u32)e->b && !(K.procs[e->a].state & DEAD)) schedule(e->a);
    } else if (e->kind == EV_DRIVER) {
        driver_due(e->a, (u32)e->b);
    } else if (e->kind == EV_TYPED) {
        if (e->a & 0x80000000u) typed_timeout(e->a & 0x7fffffff, (u32)e->b);
        else typed_wake(e->a);
    } else if (e->kind == EV_DECAY) {
        charge_lost(e->a, (u32)e->b);
    } else if (e->kind == EV_PULSE) {
        pulse_due(e->a);
    } else {
        Update *u = new_update();
        u->sig = ~0u; u->val = e->b;
    }
}

/* All that happens in a moment for which the wheel has something: with what the heap has, in the order of scheduling. */
static __attribute__((noinline)) void turn_wheel(u64 time) {
    u32 place = (u32)(time % WHEEL);
    Spoke *s = &wheel[place];
    for (;;) {
        int from_heap = heap_count && heap[0].time == time;
        if (s->at == s->count && !from_heap) break;
        if (from_heap && (s->at == s->count || heap[0].order < s->list[s->at].order)) {
            Event e = heap[0];
            hole = 1;
            close_hole();
            take_event(&e);
        } else {
            fetch_drivers(s->list, s->at, s->count);
            Due d = s->list[s->at++];
            wheel_count--;
            driver_due(d.driver, d.generation);
        }
    }
    s->at = s->count = 0;
    wheel_bits[place / 64] &= ~(1ULL << place % 64);
}

/* Whether the first event is the only one of its moment. */
static inline int alone(u64 time) { return (heap_count < 2 || heap[1].time != time) && (heap_count < 3 || heap[2].time != time); }

/* A clock process whose bit is 0 or 1. */
static inline int is_clock(const Proc *p) {
    return p->clock_ticks && (K.sigs[p->clock_sig].planes == 1 || !K.mem[K.sigs[p->clock_sig].offset + 1]);
}

/* The function for an edge that wakes nothing. */
u32 k_idle_edge(u8 *mem, Kernel *k, u64 stride, u64 last) { (void)mem; (void)k; (void)stride; (void)last; return 0; }

/* What a clock process does, without running it: the order of events is the same while it is the only one of its moment. `e`
 * becomes its next event. As long as the functions for its edges leave nothing to do and nothing else happens, it goes on at once. */
static u64 alone_until(void) {
    u64 last = K.limit;
    for (u64 i = 1; i < 3 && i < heap_count; i++) if (heap[i].time - 1 < last) last = heap[i].time - 1;
    return wheel_count || monitoring() || dumping() ? K.now : last;
}

static void run_clock(Event *e) {
    const Proc *p = &K.procs[e->a];
    const u32 sig = p->clock_sig;
    const u64 ticks = p->clock_ticks;
    u8 *at = K.mem + K.sigs[sig].offset, *watch = &K.watch[sig];
    const EdgeFn *edges = K.edges && !shuffled ? K.edges + 2 * sig : 0;
    const u64 first = K.steps;
    u64 idle = 0;
    if (edges && edges[0] && edges[1]) {
        EdgeFn fall = edges[0], rise = edges[1];
        const u64 last = VS ? e->time : alone_until(), others = heap_count, stride = 2 * ticks;
        const u64 far = fall == k_idle_edge || rise == k_idle_edge ? last < ~0ULL - stride ? last : ~0ULL - stride : 0;
        u64 time = e->time;
        for (;;) {
            u32 v = at[0];
            at[0] = (u8)(v ^ 1);
            EdgeFn edge = v ? fall : rise;
            if (edge == k_idle_edge && LIKELY(!(*watch & ~WATCH_FAN))) {        /* nothing that is asked for below can have changed */
                idle++;
                time += ticks;
                if (time > last || K.attention) break;
                K.now = time;
                continue;
            }
            K.steps++;                                  /* at each edge: what k_loop counts begins anew */
            const int told = *watch & ~WATCH_FAN;
            if (UNLIKELY(told)) k_watched(sig, p->clock_site, v, v ^ 1);
            u64 beside = S->tail;                       /* up to here wait those that the edge woke beside the function's own */
            K.beside = 0;
            u32 busy = edge == k_idle_edge ? S->head != beside : edge(K.mem, &K, stride, told ? 0 : far);
            time = K.now + ticks;
            if (UNLIKELY(busy)) {
                if (S->head != beside) batch_end = beside;
                else K.delta++;
                break;
            }
            if (time > last || S->head != S->tail || heap_count != others || reactive_count | sampled_count || K.attention) break;
            K.now = time;
            K.delta = 0;
        }
        e->time = time;
    } else {
        u32 v = at[0];
        at[0] = (u8)(v ^ 1);
        K.steps++;
        if (*watch) k_changed(sig, p->clock_site, v, v ^ 1);
        e->time += ticks;
    }
    K.steps += idle;
    K.changes += K.steps - first;
    K.batches = 0;
    e->order = heap_order++;
}

void k_clock(u32 number, u32 sig, u32 site, u64 ticks) {
    K.procs[number].clock_ticks = ticks; K.procs[number].clock_sig = sig; K.procs[number].clock_site = site;
}

/* Final procedures run once, when $finish or the want of events has ended the run (IEEE 1800-2017 9.2.3). What they change
 * wakes nobody any more; a $finish in one of them ends the simulation at once, those that are left don't run. */
static u32 *finals, final_count, final_room, final_next;
static int finishing;

static void run_finals(void) {
    finishing = 1;
    while (final_next < final_count) {
        u32 number = finals[final_next++];
        K.cur = number;
        run(number);
    }
    finishing = 0;
}

static inline void advance(u64 time) {
    K.now = time; K.delta = 0; K.batches = 0;
    if (VS) { VS->now = time; VS->cycle++; }
}

u32 k_run(u64 limit) {
    K.limit = limit;
    K.ended = ENDED_QUIET;
    if (setjmp(escape) && !left) {
        finishing = 0;
        if (K.ended == ENDED_FINISH || K.ended == ENDED_STOP) {
            dump_moment();
            update_count = 0;           /* $finish ends the run at once (1364-2005 17.4.1) */
        }
        if (K.ended == ENDED_FINISH && !final_next) run_finals();
        out_flush();
        record_flush();
        return K.ended;
    }
    int begun = 0;
    if (left) { left = 0; begun = S->head != S->tail; bury(K.cur); }
    while (!finishing) {
        settle(begun);
        begun = 0;
        postponed();
        if (S->head != S->tail || update_count || inactive_count || reactive_count || typed_due()) continue;
        if (K.attention) attend();
        if (K.pause) { K.pause = 0; K.ended = ENDED_PAUSE; break; }
        if (hole) close_hole();
        if (UNLIKELY(owed >= owed_most)) collect();
        if (UNLIKELY(wheel_count)) {
            u64 next = wheel_next();
            if (!heap_count || heap[0].time >= next) {
                if (next > limit) { K.ended = ENDED_LIMIT; K.now = limit; break; }
                if (next != K.now) advance(next);
                turn_wheel(next);
                continue;
            }
        }
        if (!heap_count) { K.ended = ENDED_QUIET; break; }
        if (heap[0].time > limit) { K.ended = ENDED_LIMIT; K.now = limit; break; }
        u64 time = heap[0].time;
        if (time != K.now) advance(time);
        while (heap_count && heap[0].time == time) {
            Event e = heap[0];
            hole = 1;
            if (e.kind == EV_WAKE && is_clock(&K.procs[e.a]) && S->head == S->tail && alone(time)) {
                hole = 0;
                run_clock(&e);
                sift_down(&e);
                break;
            }
            u64 next;
            if (e.kind == EV_TYPED && !(e.a & 0x80000000u) && S->head == S->tail && alone(time)) {
                hole = 0;
                if (typed_clock(e.a, alone_until(), &next)) {
                    e.time = next;
                    e.order = heap_order++;
                    sift_down(&e);
                    begun = S->head != S->tail;
                    break;
                }
                hole = 1;
            }
            take_event(&e);
            if (hole && heap_count > 1) {       /* is there another event of this moment? */
                Event *next = heap_count > 2 && before(&heap[2], &heap[1]) ? &heap[2] : &heap[1];
                if (next->time == time) close_hole();
                else break;
            } else if (hole) break;
        }
    }
    if (K.ended == ENDED_QUIET || finishing) run_finals();
    out_flush();
    record_flush();
    return K.ended;
}

/* Runs a function that computes something before the run; gives what went wrong, or null. */
const char *typed_evaluate(ProcFn fn, u8 *mem, void *out) {
    static VState *kept;
    kept = VS;
    VS = (VState *)mem;
    typed_arena();
    if (setjmp(escape)) { VS = kept; return K.error; }
    fn(mem, out);
    VS = kept;
    return 0;
}

/* First values of everything, and what conversions in port maps make of them. Gives 1 if an error stopped it (K.error). */
u32 typed_begin(ProcFn start, const u32 *links, u32 count) {
    typed_arena();
    if (setjmp(escape)) return 1;
    start(K.mem, 0);
    typed_arena();
    bridges_start();
    typed_start();
    for (u32 round = 0; round < count && round < 12; round++) {
        for (u32 i = 0; i < count; i++) K.fns[links[i]](K.mem, 0);
        typed_settle();
    }
    bridges_out();
    return 0;
}

void k_finish(u32 how, u32 site) {
    K.ended = how;
    K.error_site = site;
    K.error[0] = 0;
    longjmp(escape, 1);
}

/* ---- set-up ---- */

Kernel *k_open(u8 *mem, u8 *watch, Sig *sigs, u32 sig_count, Fan *fans, Driver *drivers, u32 proc_count, u32 fn_count,
               Scheduler *scheduler, u8 *armed_bytes, u32 *queue_room, u64 queue_size) {
    memset(&K, 0, sizeof K);
    K.mem = mem; K.watch = watch; K.sigs = sigs; K.sig_count = sig_count; K.fans = fans; K.drivers = drivers;
    K.proc_count = K.proc_room = proc_count;
    K.procs = calloc(proc_count + 1, sizeof *K.procs);
    K.fn_count = fn_count;
    K.delta_limit = 1000000;
    K.loop_limit = 1ULL << 28;
    S = K.scheduler = scheduler; armed = K.armed = armed_bytes; active = K.active = queue_room;
    S->mask = queue_size - 1; S->ring_at = 0;
    S->head = S->tail = inactive_count = update_count = hole = heap_count = heap_order = 0;
    wait_free = 0;
    monitors_begin();
    final_count = final_next = 0;
    finishing = left = 0;
    cell_first = cell_count = 0;
    shuffled = orderly = wheel_count = 0;
    pulses_begin();
    memset(wheel_bits, 0, sizeof wheel_bits);
    for (u32 k = 0; k < WHEEL; k++) wheel[k].at = wheel[k].count = 0;
    asserts_begin();
    batch_end = reactive_count = sample_count = sampled_count = 0;
    branches_begin();
    wait_lists = calloc(sig_count + 1, sizeof *wait_lists);
    event_times = calloc(sig_count + 1, sizeof *event_times);
    K.time_unit = 99; K.time_width = 20;
    return &K;
}

/* `sense`: also REACTIVE and OF_PROGRAM. `start` 1: runs at time 0; 0: waits for its first event; 2: runs when all is over. `sense` 0: waits by itself, 1: static fan-out, 2: eager as well. */
void k_process(u32 number, u32 fn, u64 frame, u64 inst, u32 sense, u32 start) {
    Frame *f = (Frame *)(K.mem + frame);
    Proc *p = &K.procs[number];
    f->fn = fn; f->inst = K.mem + inst; f->proc = number;
    p->top = f;
    if (inst) { u32 instance; memcpy(&instance, f->inst, sizeof instance); random_process(number, instance); }
    p->state = sense & 3 ? STATIC | ((sense & 3) > 1 ? EAGER : 0) : 0;
    p->state |= sense & (REACTIVE | OF_PROGRAM | STACKED);
    K.programs += (sense & OF_PROGRAM) != 0;
    armed[number] = (sense & 3) != 0;
    p->fn = K.fns[fn];
    if (start == 1) schedule(number);
    if (start == 2) {
        if (final_count == final_room) finals = realloc(finals, (final_room = final_room * 2 + 8) * sizeof *finals);
        finals[final_count++] = number;
    }
}

u32 k_reason(void) { u32 r = K.procs[K.cur].reason; K.procs[K.cur].reason = 0; return r; }
