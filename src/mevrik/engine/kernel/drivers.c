/* Signals of VHDL: drivers, projected output waveforms, resolution, events (IEEE 1076-2008 10.5.2, 14.7). */
#include <stdarg.h>
#include "typed.h"

VState *VS;
static VSig *sigs; static u32 sig_count;
static i64 *numbers;               /* by signal: the number that its '0' and '1' are, if code has noted it since its last event; else -1 */
static VDriver *drivers; static u32 driver_count;
static VFan *fans;
static VResolution *resolutions; static u32 resolution_count;
static u32 *dirty; static u64 dirty_count, dirty_room;
static u32 *forced, forced_site; static u64 forced_count, forced_room;    /* signals without drivers that were forced or released */
static u32 *zero; static u64 zero_count, zero_room;          /* processes that wait for no time */
static u32 *events; static u64 event_count, event_room;      /* signals with an event in this cycle */
typedef struct VWait { u32 proc, sig, at, size; struct VWait *next, **back, *sibling; } VWait;
static VWait *free_waits; static VWait **wait_of; static u32 wait_room;

static void *room_for(void *p, u64 *room, u64 need, size_t size) {
    if (need <= *room) return p;
    *room = need * 2 + 64;
    return realloc(p, *room * size);
}

void v_stop(u32 site, const char *format, ...) {
    char text[480];
    va_list args;
    va_start(args, format);
    vsnprintf(text, sizeof text, format, args);
    va_end(args);
    if (K.scheduler) memset(K.scheduler->ring, 0, sizeof K.scheduler->ring);    /* it is this statement's fault, not that of what changed last */
    k_stop(ENDED_ERROR, site ? site : (u32)VS->caller, text);
}

void typed_open(VState *state, VSig *s, u32 count, VDriver *d, u32 d_count, VFan *f, VLeaf *l, VResolution *r, u32 r_count, i64 *n) {
    VS = state; numbers = n; sigs = s; sig_count = count; drivers = d; driver_count = d_count; fans = f;
    shown_open(s, count, l);
    resolutions = r; resolution_count = r_count;
    dirty_count = forced_count = zero_count = event_count = VS->waiting = 0;
    for (u32 k = 0; k < count; k++) numbers[k] = -1;
    VS->cycle = 1;
}

/* ---- waits of processes with stacks ---- */

void v_wait(u32 sig, u32 at, u32 size) {
    if (K.cur >= wait_room) {
        u32 was = wait_room;
        wait_room = K.cur * 2 + 64;
        wait_of = realloc(wait_of, wait_room * sizeof *wait_of);
        memset(wait_of + was, 0, (wait_room - was) * sizeof *wait_of);
    }
    VWait *w = free_waits;
    if (w) free_waits = w->next;
    else w = malloc(sizeof *w);
    VWait **list = (VWait **)&sigs[sig].waits;
    *w = (VWait){K.cur, sig, at, size, *list, list, wait_of[K.cur]};
    if (w->next) w->next->back = &w->next;
    *list = w;
    wait_of[K.cur] = w;
    sigs[sig].flags |= V_BESIDE;
}
static void drop(u32 proc) {
    if (proc >= wait_room) return;
    for (VWait *w = wait_of[proc]; w;) {
        VWait *sibling = w->sibling;
        *w->back = w->next;
        if (w->next) w->next->back = w->back;
        VSig *s = &sigs[w->sig];
        if (!s->waits && !s->force) s->flags &= ~(u32)V_BESIDE;
        w->next = free_waits; free_waits = w;
        w = sibling;
    }
    wait_of[proc] = 0;
}
void v_zero(void) {
    zero = room_for(zero, &zero_room, zero_count + 1, sizeof *zero);
    zero[zero_count++] = K.cur;
    VS->waiting = 1;
}
/* The time of a wait is over. */
void typed_timeout(u32 proc, u32 generation) {
    Proc *p = &K.procs[proc];
    if (p->generation != generation) return;
    drop(proc);
    p->reason = 0;
    schedule_proc(proc);
}

/* ---- drivers ---- */

static inline void copy(u8 *to, const u8 *from, u32 n) {
    if (n == 1) { *to = *from; return; }
    if (n > 64) { memcpy(to, from, n); return; }
    u64 x;
    u32 i = 0;
    for (; i + 8 <= n; i += 8) { memcpy(&x, from + i, 8); memcpy(to + i, &x, 8); }
    for (; i < n; i++) to[i] = from[i];
}


static inline void list(u32 number) {
    VDriver *d = &drivers[number];
    if (d->queued) return;
    d->queued = 1 | d->off << 1;
    dirty = room_for(dirty, &dirty_room, dirty_count + 1, sizeof *dirty);
    dirty[dirty_count++] = number;
    VS->waiting = 1;
}
static inline void give(const VSig *s, u32 low, u32 high) { if (UNLIKELY(s->parts != 0)) memset(s->parts->given + low, 1, high - low); }
static inline void mark(VDriver *d, u32 low, u32 high) {
    give(&sigs[d->sig], low, high);
    if (d->queued) {
        if (low < d->low) d->low = low;
        if (high > d->high) d->high = high;
    } else { d->low = low; d->high = high; list(d->number); }
}
static Trans *free_trans;
static inline Trans *new_trans(void) {
    Trans *t = free_trans;
    if (!t) return malloc(sizeof *t);
    free_trans = t->next;
    return t;
}
static inline void drop_trans(Trans *t) { t->next = free_trans; free_trans = t; }
static void cancel(VDriver *d, u32 low, u32 high) {
    if (d->due_size && d->due_at >= low && d->due_at < high) { d->due_size = 0; d->pending--; }
    if (!d->heads) return;
    for (u32 o = low; o < high; o++)
        while (d->heads[o]) { Trans *t = d->heads[o]; d->heads[o] = t->next; drop_trans(t); d->pending--; }
}
/* Bytes [low, high) of the next image were written: a transaction after no time. */
void v_mark(VDriver *d, u64 low, u64 high, u32 site) {
    if (UNLIKELY(d->pending)) cancel(d, (u32)low, (u32)high);
    d->site = site;
    mark(d, (u32)low, (u32)high);
    d->off = 0;
}
void v_assign(VDriver *d, u64 at, const u8 *value, u64 size, u32 site) {
    copy(d->next + at, value, (u32)size);
    v_mark(d, at, at + size, site);
}

/* S'driving and S'driving_value (16.2.4): what the driver contributes now, not what it has just been given. */
u32 v_driving(const VDriver *d) { return !(d->queued ? d->queued >> 1 : d->off); }
const u8 *v_driving_value(const VDriver *d, u32 site) {
    if (!v_driving(d)) v_stop(site, "this process does not drive the signal now, so there is no 'driving_value (16.2.4)");
    return d->now ? d->now : sigs[d->sig].value;
}

static int same(const Trans *a, const Trans *b) { return a->null == b->null && !memcmp(a->value, b->value, a->size); }

/* One scalar element (10.5.2.2). mode: 0 inertial, 1 transport; `first`: of the waveform. value null: a null transaction. */
static void project(VDriver *d, u32 at, u32 size, const u8 *value, u64 time, u64 reject, u32 mode, u32 first) {
    if (!d->heads) d->heads = calloc(sigs[d->sig].size + 1, sizeof *d->heads);
    Trans *fresh = new_trans();
    fresh->time = time; fresh->size = size; fresh->null = !value; fresh->next = 0;
    memset(fresh->value, 0, 8);
    if (value) memcpy(fresh->value, value, size);
    Trans **end = &d->heads[at];
    if (first) {
        while (*end && (*end)->time < time) end = &(*end)->next;
        while (*end) { Trans *gone = *end; *end = gone->next; drop_trans(gone); d->pending--; }
        if (!mode && d->heads[at]) {
            /* those in the reject window stay only if they lead with the same value to the new one */
            u64 from = time > reject ? time - reject : 0;
            Trans *list[4096]; u32 n = 0;
            for (Trans *t = d->heads[at]; t && n < 4096; t = t->next) list[n++] = t;
            Trans *after = fresh;
            u32 keep = n;
            while (keep && list[keep - 1]->time >= from && same(list[keep - 1], after)) { after = list[keep - 1]; keep--; }
            Trans **put = &d->heads[at];
            for (u32 i = 0; i < n; i++) {
                if (i >= keep || list[i]->time < from) { *put = list[i]; put = &list[i]->next; }
                else { drop_trans(list[i]); d->pending--; }
            }
            *put = 0;
            end = put;
        }
    } else while (*end) end = &(*end)->next;
    *end = fresh;
    d->pending++;
    push_typed(time, d->number);
}

/* The one transaction that stood beside the lists goes into its list. */
static void enlist(VDriver *d) {
    if (!d->due_size) return;
    if (!d->heads) d->heads = calloc(sigs[d->sig].size + 1, sizeof *d->heads);
    Trans *t = new_trans();
    t->time = d->due; t->size = d->due_size; t->null = 0; t->next = 0;
    memcpy(t->value, d->due_value, 8);
    d->heads[d->due_at] = t;
    d->due_size = 0;
}

/* `count` elements of `size` bytes from `value` on, after `ticks`. */
void v_wave(VDriver *d, u64 at, u64 size, u64 count, const u8 *value, u64 ticks, u64 reject, u32 mode, u32 first, u32 site) {
    if ((i64)ticks < 0) v_stop(site, "the delay of this assignment is negative");
    if (!mode && reject > ticks) v_stop(site, "the pulse rejection limit is longer than the delay (10.5.2.1)");
    d->site = site;
    if (!ticks) {
        if (d->pending) cancel(d, (u32)at, (u32)(at + size * count));
        mark(d, (u32)at, (u32)(at + size * count));
        d->off = !value;
        if (value) memmove(d->next + at, value, size * count);
        return;
    }
    if (LIKELY(count == 1 && first && !d->pending && value)) {
        d->due = K.now + ticks; d->due_at = (u32)at; d->due_size = (u32)size;
        memcpy(d->due_value, value, size);
        d->pending = 1;
        push_typed(d->due, d->number);
        return;
    }
    enlist(d);
    for (u64 i = 0; i < count; i++) project(d, (u32)(at + i * size), (u32)size, value ? value + i * size : 0, K.now + ticks, reject, mode, first);
}

/* Time has come for transactions of a driver. */
void typed_wake(u32 number) {
    VDriver *d = &drivers[number];
    if (!d->pending) return;
    if (d->due_size) {
        if (d->due > K.now) return;
        memcpy(d->next + d->due_at, d->due_value, d->due_size);
        d->pending--;
        mark(d, d->due_at, d->due_at + d->due_size);
        d->off = 0;
        d->due_size = 0;
        return;
    }
    u32 size = sigs[d->sig].size;
    for (u32 o = 0; o < size; o++)
        while (d->heads[o] && d->heads[o]->time <= K.now) {
            Trans *t = d->heads[o];
            d->heads[o] = t->next;
            d->pending--;
            mark(d, o, o + t->size);
            d->off = t->null;
            if (!t->null) memcpy(d->next + o, t->value, t->size);
            drop_trans(t);
        }
}

/* ---- resolution ---- */

/* std_logic_1164: the resolution table. */
static const u8 TABLE[9][9] = {
    {0, 0, 0, 0, 0, 0, 0, 0, 0}, {0, 1, 1, 1, 1, 1, 1, 1, 1}, {0, 1, 2, 1, 2, 2, 2, 2, 1}, {0, 1, 1, 3, 3, 3, 3, 3, 1},
    {0, 1, 2, 3, 4, 5, 6, 7, 1}, {0, 1, 2, 3, 5, 5, 5, 5, 1}, {0, 1, 2, 3, 6, 5, 6, 5, 1}, {0, 1, 2, 3, 7, 5, 5, 7, 1},
    {0, 1, 1, 1, 1, 1, 1, 1, 1}};

static void resolve(const VSig *s, u32 number, u32 low, u32 high, u8 *out) {
    for (u32 o = low; o < high; o++) {
        int count = 0, driven = 0; u8 v = 4;
        for (u32 k = 0; k < s->driver_count; k++) {
            const VDriver *d = &drivers[s->driver_first + k];
            if (d->mask && !d->mask[o]) continue;
            driven = 1;
            if (d->off) continue;
            u8 w = d->now[o];
            v = count && v < 9 && w < 9 ? TABLE[v][w] : w;     /* other types are resolved below */
            count++;
        }
        out[o - low] = count || (driven && (s->flags & V_BUS)) ? v : s->value[o];
    }
    if (!(s->flags & V_USER)) return;
    for (u32 i = 0; i < resolution_count; i++) {
        const VResolution *r = &resolutions[i];
        if (r->sig != number || r->at + r->size <= low || r->at >= high) continue;
        u8 *values = arena((u64)r->size * s->driver_count + 8), *result = arena(r->size);
        i64 count = 0;
        int driven = 0;
        for (u32 k = 0; k < s->driver_count; k++) {
            const VDriver *d = &drivers[s->driver_first + k];
            if (d->mask && !d->mask[r->at]) continue;
            driven = 1;
            if (!d->off) memcpy(values + (u64)r->size * count++, d->now + r->at, r->size);
        }
        if (!driven || (!count && (s->flags & V_REGISTER))) continue;
        r->fn(K.mem, values, count, result);
        u32 from = r->at > low ? r->at : low, to = r->at + r->size < high ? r->at + r->size : high;
        memcpy(out + (from - low), result + (from - r->at), to - from);
        VS->top = values;
    }
}

/* What the drivers of a signal make of these bytes without one of them: for a port that values go through both ways. */
void typed_without(u32 number, u32 driver, u32 low, u32 high, u8 *out) {
    const VSig *s = &sigs[number];
    for (u32 o = low; o < high; o++) {
        u8 v = 4;
        for (u32 k = 0; k < s->driver_count; k++) {
            const VDriver *d = &drivers[s->driver_first + k];
            if (d->number != driver && !d->off && (!d->mask || d->mask[o])) v = TABLE[v][(d->now ? d->now : d->next)[o]];
        }
        out[o - low] = v;
    }
}

/* ---- updating (14.7.3) ---- */


static void activate(VSig *s, u32 number, u32 low, u32 high, u32 site);

static void part_events(VSig *s, u32 low, u32 high, const u8 *from) {
    Parts *p = s->parts;
    for (u32 o = low; o < high; o++) {
        if (s->value[o] == from[o - low]) continue;
        u32 k = p->scalar[o], at = p->start[k];
        memcpy(p->last + at, s->before + at, p->start[k + 1] - at);
        p->event_time[k] = K.now + 1;
        o = p->start[k + 1] - 1;
    }
}

/* New bytes for [low, high) of a signal. */
static void put(VSig *s, u32 number, u32 low, u32 high, const u8 *from, u32 site) {
    if (UNLIKELY(s->force != 0)) {
        u8 *merged = alloca(high - low);
        for (u32 o = low; o < high; o++) merged[o - low] = s->force[o] ? s->force[s->size + o] : from[o - low];
        from = merged;
        activate(s, number, low, high, site);
        if (!memcmp(s->value + low, from, high - low)) return;
    } else {
        s->active_cycle = VS->cycle;
        s->active_time = K.now;
        if (UNLIKELY(s->flags & V_ALONG)) activate(s, number, low, high, site);
        if (!differ(s->value + low, from, high - low)) return;
    }
    K.changes++;
    K.scheduler->ring[K.scheduler->ring_at++ & 63] = site;
    if (UNLIKELY(s->event_cycle == VS->cycle)) {
        if (low < s->low) { copy(s->before + low, s->value + low, s->low - low); s->low = low; }        /* nothing else of it has changed yet */
        if (high > s->high) { copy(s->before + s->high, s->value + s->high, high - s->high); s->high = high; }
    } else {
        s->event_cycle = VS->cycle;
        if (s->flags & V_WHOLE) { copy(s->before, s->value, s->size); s->low = 0; s->high = s->size; }
        else { copy(s->before + low, s->value + low, high - low); s->low = low; s->high = high; }
        events = room_for(events, &event_room, event_count + 1, sizeof *events);
        events[event_count++] = number;
    }
    if (UNLIKELY(s->parts != 0)) part_events(s, low, high, from);
    copy(s->value + low, from, high - low);
    numbers[number] = -1;
    s->event_time = K.now;
    s->spare = site;
    if (s->flags & V_WATCHED) record_typed(s, site);
}

/* The signals that come with another one: S'transaction, 'quiet, 'delayed and 'stable (16.2.4). kind: 0 transaction, 1 quiet, 2 delayed,
 * 3 stable; `to` is their driver. */
enum { TRANSACTION, QUIET, DELAYED, STABLE };

/* In the next cycle of this moment the driver takes up what it has been given. */
static void take_up(u32 driver) {
    zero = room_for(zero, &zero_room, zero_count + 1, sizeof *zero);
    zero[zero_count++] = 0x80000000u | driver;
    VS->waiting = 1;
}

/* S'stable and S'quiet: false at once, and true again when their time has passed. */
static void disturb(const Implicit *i, u32 site) {
    VDriver *d = &drivers[i->to];
    u8 no = 0, yes = 1;
    put(&sigs[d->sig], d->sig, 0, 1, &no, site);
    d->next[0] = 0;
    if (d->pending) cancel(d, 0, 1);
    if (i->ticks) project(d, 0, 1, &yes, K.now + i->ticks, 0, 1, 1);
    else take_up(i->to);
}

/* Whether one of these bytes was given a value, where account is kept of that. */
static int is_given(const VSig *s, u32 low, u32 high) { return !s->parts || memchr(s->parts->given + low, 1, high - low) != 0; }

static void activate(VSig *s, u32 number, u32 low, u32 high, u32 site) {
    (void)number;
    s->active_cycle = VS->cycle;
    s->active_time = K.now;
    for (u32 k = s->parts ? s->parts->scalar[low] : 0; s->parts && s->parts->start[k] < high; k++) {
        if (!is_given(s, s->parts->start[k], s->parts->start[k + 1])) continue;
        s->parts->active_time[k] = K.now + 1;
        s->parts->active_cycle[k] = VS->cycle;
    }
    for (Implicit *i = s->implicit; i; i = i->next) {
        if (i->at + i->size <= low || i->at >= high || !is_given(s, i->at, i->at + i->size)) continue;
        VDriver *d = &drivers[i->to];
        if (i->kind == TRANSACTION) {
            d->next[0] = !sigs[d->sig].value[0];
            mark(d, 0, 1);
        } else if (i->kind == QUIET) disturb(i, site);
    }
    if (s->parts) memset(s->parts->given + low, 0, high - low);
}
static void on_event(VSig *s, u32 site) {
    for (Implicit *i = s->implicit; i; i = i->next) {
        if (i->kind < DELAYED || i->at + i->size <= s->low || i->at >= s->high) continue;
        if (!memcmp(s->before + i->at, s->value + i->at, i->size)) continue;
        VDriver *d = &drivers[i->to];
        if (i->kind == DELAYED) {
            if (i->ticks) { for (u32 o = 0; o < i->size;) { u32 n = i->size - o < 8 ? i->size - o : 8; project(d, o, n, s->value + i->at + o, K.now + i->ticks, 0, 1, 1); o += n; } }
            else { memcpy(d->next, s->value + i->at, i->size); d->spare = 1; take_up(i->to); }
        } else disturb(i, site);
    }
}
void v_implicit(u32 sig, u32 kind, u32 driver, u32 at, u32 size, u64 ticks) {
    Implicit *i = malloc(sizeof *i);
    *i = (Implicit){kind, driver, at, size, ticks, sigs[sig].implicit};
    sigs[sig].implicit = i;
    sigs[sig].flags |= V_ALONG;
}
/* Keep account of the scalars of a composite signal; scalar k is at [start[k], start[k + 1]). */
void v_keep_parts(u32 sig, const u32 *start, u32 count) {
    VSig *s = &sigs[sig];
    Parts *p = s->parts = malloc(sizeof *p);
    p->last = malloc(s->size);
    memcpy(p->last, s->value, s->size);
    p->start = malloc((count + 2) * sizeof *start);
    memcpy(p->start, start, count * sizeof *start);
    p->start[count] = s->size;
    p->start[count + 1] = ~0u;
    p->scalar = malloc(s->size * sizeof *p->scalar);
    for (u32 k = 0; k < count; k++) for (u32 o = p->start[k]; o < p->start[k + 1]; o++) p->scalar[o] = k;
    p->event_time = calloc(3 * (u64)(count + 1), sizeof(u64));
    p->active_time = p->event_time + count + 1;
    p->active_cycle = p->active_time + count + 1;
    p->given = calloc(1, s->size + 1);
    s->flags |= V_ALONG;
}
u8 *v_last(u32 sig, u64 at) { return sigs[sig].parts ? sigs[sig].parts->last + at : sigs[sig].before + at; }

/* S'last_event and S'last_active: the time since the latest one of any scalar in [at, at + size), or TIME'HIGH. */
i64 v_since(u32 sig, u64 at, u64 size, u32 active) {
    const VSig *s = &sigs[sig];
    if (!s->parts) {
        u64 never = !(active ? s->active_cycle : s->event_cycle);
        return never ? INT64_MAX : (i64)(K.now - (active ? s->active_time : s->event_time));
    }
    const u64 *times = active ? s->parts->active_time : s->parts->event_time;
    u64 latest = 0;
    for (u32 k = s->parts->scalar[at]; s->parts->start[k] < at + size; k++) if (times[k] > latest) latest = times[k];
    return latest ? (i64)(K.now + 1 - latest) : INT64_MAX;
}
u32 v_active(u32 sig, u64 at, u64 size) {
    const VSig *s = &sigs[sig];
    if (s->active_cycle != VS->cycle || !s->parts) return s->active_cycle == VS->cycle;
    for (u32 k = s->parts->scalar[at]; s->parts->start[k] < at + size; k++) if (s->parts->active_cycle[k] == VS->cycle) return 1;
    return 0;
}

static void take(VDriver *d, VSig *s) {
    u32 low = d->low, high = d->high;
    if (LIKELY(!(s->flags & V_RESOLVED))) {
        if (LIKELY(!d->mask)) { if (!d->off) put(s, d->sig, low, high, d->next + low, d->site); return; }
        for (u32 o = low; o < high;) {
            if (!d->mask[o]) { o++; continue; }
            u32 end = o;
            while (end < high && d->mask[end]) end++;
            put(s, d->sig, o, end, d->next + o, d->site);
            o = end;
        }
        return;
    }
    for (u32 o = low; o < high; o++) if (!d->mask || d->mask[o]) d->now[o] = d->next[o];
    u8 *out = arena(high - low), *top = out;
    resolve(s, d->sig, low, high, out);
    put(s, d->sig, low, high, out, d->site);
    VS->top = top;
}

static void update(u32 number) {
    VDriver *d = &drivers[number];
    VSig *s = &sigs[d->sig];
    d->queued = 0;
    take(d, s);
    if (UNLIKELY(s->flags & V_JOINED)) bridge_out(d->sig, d->site);      /* the other side has to know of its drivers, not only of its value */
}

static inline int touched(const VSig *s, u32 at, u32 size) {
    if (at + size <= s->low || at >= s->high) return 0;
    u32 from = at > s->low ? at : s->low, to = at + size < s->high ? at + size : s->high;
    return differ(s->before + from, s->value + from, to - from);
}
/* S'event of a part of a signal. */
u32 v_event(u32 sig, u64 at, u64 size) {
    const VSig *s = &sigs[sig];
    return s->event_cycle == VS->cycle && touched(s, (u32)at, (u32)size);
}

static void run_link(u32 proc) {
    Proc *p = &K.procs[proc];
    K.fns[p->top->fn](K.mem, p->top);
}

static inline void wake_typed(u32 p) {
    if (UNLIKELY(K.procs[p].state & REACTIVE)) { schedule_proc(p); return; }
    Scheduler *q = K.scheduler;
    K.armed[p] = 0;
    K.active[q->tail++ & q->mask] = p;
}

/* Processes that waited for no time, and signals that follow others by a delta. */
static __attribute__((noinline)) void zero_waits(void) {
    u64 waiting = zero_count;
    for (u64 i = 0; i < waiting; i++) {
        if (zero[i] & 0x80000000u) {
            VDriver *d = &drivers[zero[i] & 0x7fffffff];
            if (!d->spare) d->next[0] = 1;
            d->spare = 0;
            mark(d, 0, sigs[d->sig].size);
        } else { drop(zero[i]); K.procs[zero[i]].reason = 0; schedule_proc(zero[i]); }
    }
    zero_count -= waiting;
    if (zero_count) memmove(zero, zero + waiting, zero_count * sizeof *zero);
}

/* What a signal takes along in the same cycle: gives 1 if something new came of it. */
static __attribute__((noinline)) void take_along(VSig *s) {
    if (s->implicit) on_event(s, 0);
    for (u32 k = 0; k < s->fan_count; k++) {
        const VFan *f = &fans[s->fan_first + k];
        if (f->link == 1 && touched(s, f->at, f->size)) run_link(f->proc);
    }
}

static __attribute__((noinline)) void wake_waits(VSig *s) {
    static u32 *woken; static u64 room;
    u64 n = 0;
    for (VWait *w = s->waits; w; w = w->next)
        if (w->size == s->size || touched(s, w->at, w->size)) { woken = room_for(woken, &room, n + 1, sizeof *woken); woken[n++] = w->proc; }
    while (n) {
        u32 p = woken[--n];
        if (wait_of[p]) { drop(p); K.procs[p].reason = 1; schedule_proc(p); }
    }
}

/* What an event of a signal wakes. */
static void wake(u32 number) {
    VSig *s = &sigs[number];
    if (UNLIKELY(s->flags & V_BRIDGED)) bridge_out(number, (u32)s->spare);
    const VFan *f = &fans[s->fan_first], *end = f + s->fan_count;
    for (; f != end; f++) {
        if (f->link > 1) {
            if ((s->value[f->at] & f->link >> 16) != (f->link >> 8 & 255)) continue;
        } else if (f->link) continue;
        if (K.armed[f->proc] && (f->size == s->size || touched(s, f->at, f->size))) wake_typed(f->proc);
    }
    if (UNLIKELY(s->waits != 0)) wake_waits(s);
}

/* ---- functions for the edges of clocks (engine/typed/edges.py) ---- */

void v_wake(u32 proc) { if (K.armed[proc]) wake_typed(proc); }
void v_recorded(u32 sig, u32 site) { record_typed(&sigs[sig], site); }
/* If nothing waits but the `count` drivers that the caller will take, gives 1 and forgets them. */
u32 v_only(u32 count) {
    if (dirty_count != count || zero_count || forced_count) return 0;
    dirty_count = 0;
    VS->waiting = 0;
    return 1;
}
/* A marked driver gives its value to its signal; tells whether that changes it. Whom it wakes is the caller's affair. */
u32 v_take(u32 driver) {
    const u64 changes = K.changes;
    event_count = 0;
    update(driver);
    if (K.changes == changes) return 0;
    VSig *s = &sigs[drivers[driver].sig];
    if (UNLIKELY(s->waits != 0)) wake_waits(s);
    return 1;
}
/* The same for one that the caller has not had marked: its signal is forced or waited for. */
u32 v_follow(u32 driver, u32 site) {
    VDriver *d = &drivers[driver];
    d->low = 0; d->high = sigs[d->sig].size; d->site = site;
    return v_take(driver);
}
static inline int is_level(const VSig *s, u8 v) { return (v & ~1u) == (s->flags & V_NINE ? 2 : 0); }

/* Calls the function for the edge that was the only event of this cycle, if there is one. */
static int run_edge(u32 number) {
    VSig *s = &sigs[number];
    if (!K.typed_edges || shuffled || !is_level(s, s->value[0]) || !is_level(s, s->before[0])) return 0;
    TypedEdgeFn edge = K.typed_edges[2 * number + (s->value[0] & 1)];
    if (!edge) return 0;
    if (UNLIKELY(s->waits != 0)) wake_waits(s);
    K.steps++;
    edge(K.mem, &K, 3, 1, 0);
    return 1;
}

/* A clock that inverts itself and is alone in this moment: as long as the functions for its edges leave nothing to do and nothing else
 * happens up to `last`, it goes on at once. Gives 0 if it can't, else the time of its `next` event. */
int typed_clock(u32 number, u64 last, u64 *next) {
    VDriver *d = &drivers[number];
    if (!d->ticks || !d->due_size || d->due != K.now || !K.typed_edges || shuffled || VS->waiting) return 0;
    VSig *const s = &sigs[d->sig];
    VState *const vs = VS;
    u8 *const value = s->value, *const before = s->before, *const next_value = d->next;
    const TypedEdgeFn fall = K.typed_edges[2 * d->sig], rise = K.typed_edges[2 * d->sig + 1];
    const u64 ticks = d->ticks, others = heap_count;
    u64 time = K.now;
    u8 v = d->due_value[0];
    if (!is_level(s, v) || s->value[0] != (v ^ 1) || s->flags & V_BESIDE) return 0;
    s->low = 0; s->high = 1;
    const u64 first = K.steps;
    const int watched = (s->flags & V_WATCHED) != 0;
    const int idle = watched ? -1 : !rise ? 1 : !fall ? 0 : -1;      /* the level that nobody has to know of */
    const u64 stride = 2 * ticks, far = last < ~0ULL - stride ? last : ~0ULL - stride;
    u8 shown = 255;                        /* where each call is for the same edge the levels are written once */
    for (;;) {
        const int skips = (v & 1) == idle && time + ticks <= far;       /* this edge and the next one in one go */
        if (skips) { time += ticks; v ^= 1; }
        K.now = vs->now = time;
        K.steps += 1 + (u64)skips;         /* at each edge: what k_loop counts begins anew */
        s->event_cycle = vs->cycle += 1 + (u64)skips;
        if (v != shown) { shown = v; *before = v ^ 1; *value = *next_value = v; }
        if (UNLIKELY(watched)) record_typed(s, d->site);
        TypedEdgeFn edge = v & 1 ? rise : fall;
        u32 left = edge ? edge(K.mem, &K, 0, stride, idle < 0 ? 0 : far) : 0;
        time = K.now + ticks;
        v ^= 1;
        if (UNLIKELY(left) && (left == 1 || heap_count != others || reactive_count || s->flags & V_BESIDE)) break;
        if (time > last || K.attention) break;
        K.delta = 0;
    }
    s->active_cycle = s->event_cycle;      /* the functions ask for none of these */
    s->event_time = s->active_time = K.now;
    K.changes += K.steps - first;
    d->due = *next = time;
    d->due_value[0] = v;
    return 1;
}

void typed_update(void) {
    VS->cycle++;
    VS->now = K.now;
    event_count = 0;
    if (UNLIKELY(zero_count)) zero_waits();
    u64 seen = 0;
    for (;;) {
        for (u64 i = 0; i < dirty_count; i++) update(dirty[i]);
        dirty_count = 0;
        for (; forced_count; forced_count--) {
            VSig *s = &sigs[forced[forced_count - 1]];
            put(s, forced[forced_count - 1], 0, s->size, s->force + 2 * (u64)s->size, forced_site);
        }
        VS->waiting = zero_count;
        if (seen == event_count) break;
        for (; seen < event_count; seen++) {
            VSig *s = &sigs[events[seen]];
            if (UNLIKELY(s->flags & V_ALONG)) take_along(s);
        }
        if (LIKELY(!dirty_count)) break;
    }
    if (event_count == 1 && sigs[events[0]].flags & V_EDGES && K.scheduler->head == K.scheduler->tail && run_edge(events[0])) return;
    for (u64 i = 0; i < event_count; i++) wake(events[i]);
}

/* What comes from the other language; `now`: as a first value. */
void typed_drive(u32 driver, u32 at, const u8 *value, u32 size, u32 site, int now) {
    VDriver *d = &drivers[driver];
    memcpy(d->next + at, value, size);
    if (!now) v_mark(d, at, at + size, site);
}
int typed_differs(u32 driver, u32 at, const u8 *value, u32 size) { return differ(drivers[driver].next + at, value, size); }
const u8 *typed_value(u32 number) { return sigs[number].value; }

/* ---- force and release (10.5.2.3, 10.5.2.4) ---- */

/* A signal without a driver has its default value when it is not forced (14.7.3.2). */
static void mark_undriven(u32 sig, u32 site) {
    forced = room_for(forced, &forced_room, forced_count + 1, sizeof *forced);
    forced[forced_count++] = sig;
    forced_site = site;
    VS->waiting = 1;
}
void v_force(u32 sig, u64 at, const u8 *value, u64 size, u32 site) {
    VSig *s = &sigs[sig];
    if (!s->force) {
        s->force = calloc(3, s->size + 1);
        memcpy(s->force + 2 * (u64)s->size, s->value, s->size);
        s->flags |= V_BESIDE;
    }
    if (!s->driver_count) { mark_undriven(sig, site); give(s, (u32)at, (u32)(at + size)); }
    memset(s->force + at, 1, size);
    memcpy(s->force + s->size + at, value, size);
    if (s->driver_count) {
        VDriver *d = &drivers[s->driver_first];
        d->site = site;
        mark(d, (u32)at, (u32)(at + size));
        for (u32 k = 1; k < s->driver_count; k++) mark(&drivers[s->driver_first + k], (u32)at, (u32)(at + size));
    }
}
void v_release(u32 sig, u64 at, u64 size, u32 site) {
    VSig *s = &sigs[sig];
    if (!s->force) return;
    memset(s->force + at, 0, size);
    if (!s->driver_count) { mark_undriven(sig, site); give(s, (u32)at, (u32)(at + size)); }
    for (u32 k = 0; k < s->driver_count; k++) { VDriver *d = &drivers[s->driver_first + k]; d->site = site; mark(d, (u32)at, (u32)(at + size)); }
}

/* ---- the start (14.7.3.4, 14.7.5.2) ---- */

/* The initial values of drivers make those of their signals. */
void typed_start(void) {
    for (u32 n = 0; n < sig_count; n++) {
        VSig *s = &sigs[n];
        if (!(s->flags & V_RESOLVED)) {
            for (u32 k = 0; k < s->driver_count; k++) {
                VDriver *d = &drivers[s->driver_first + k];
                for (u32 o = 0; o < s->size; o++) if (!d->mask || d->mask[o]) s->value[o] = d->next[o];
            }
        } else {
            for (u32 k = 0; k < s->driver_count; k++) { VDriver *d = &drivers[s->driver_first + k]; memcpy(d->now, d->next, s->size); }
            u8 *out = arena(s->size), *top = out;
            resolve(s, n, 0, s->size, out);
            memcpy(s->value, out, s->size);
            VS->top = top;
        }
        memcpy(s->before, s->value, s->size);
        numbers[n] = -1;
        if (s->parts) memcpy(s->parts->last, s->value, s->size);
    }
}
/* Links copy at the start too, without any event. */
void typed_settle(void) {
    for (u64 i = 0; i < dirty_count; i++) {
        VDriver *d = &drivers[dirty[i]];
        d->queued = 0;
        if (d->now) memcpy(d->now, d->next, sigs[d->sig].size);
    }
    dirty_count = 0;
    typed_start();
}
