/* Writing signals, drivers and their resolution (IEEE 1364-2005 4.6, 7.10 to 7.13), force (9.3). */
#include "typed.h"

void bits_load(const u8 *at, u32 bytes, u64 *words) {
    if (bytes < 8) { words[0] = 0; memcpy(words, at, bytes); }
    else memcpy(words, at, bytes);
}

static void bits_store(u8 *at, u32 bytes, const u64 *words) { memcpy(at, words, bytes); }

/* Copies `width` bits of src (from bit 0) to dst at bit `low`; what falls outside `size` is lost. */
static void insert_bits(u64 *dst, u32 size, const u64 *src, i64 low, u32 width) {
    i64 from = 0, count = width;
    if (low < 0) { from = -low; count += low; low = 0; }
    if (low + count > (i64)size) count = (i64)size - low;
    while (count > 0) {
        u32 room = 64 - low % 64, have = 64 - from % 64, n = room < have ? room : have;
        if (n > count) n = (u32)count;
        u64 ones = low_ones(n);
        u64 piece = src[from / 64] >> from % 64 & ones;
        dst[low / 64] = (dst[low / 64] & ~(ones << low % 64)) | piece << low % 64;
        low += n; from += n; count -= n;
    }
}

typedef struct { u8 on; u64 *val, *unk, *mask_force, *mask_assign, *base_val, *base_unk; } Held;
static Held *held;                 /* by signal; only for signals that the source can force or assign */

static void store_whole(u32 sig, u32 site, u32 elem, const u64 *val, const u64 *unk) {
    const Sig *s = &K.sigs[sig];
    u32 words = words_of(s->width);
    u8 *at = K.mem + s->offset + (u64)elem * s->bytes * s->planes;
    u64 v[words], u[words];
    bits_load(at, s->bytes, v);
    u32 was = v[0] & 1;
    int same = !memcmp(v, val, words * 8);
    u32 is = val[0] & 1;
    if (s->planes > 1) {
        bits_load(at + s->bytes, s->bytes, u);
        was |= (u[0] & 1) << 1;
        is |= (unk[0] & 1) << 1;
        same = same && !memcmp(u, unk, words * 8);
    }
    if (same) return;
    bits_store(at, s->bytes, val);
    if (s->planes > 1) bits_store(at + s->bytes, s->bytes, unk);
    K.changes++;
    if (K.watch[sig]) k_changed(sig, site, was, is);
}

static void apply_held(u32 sig, u32 site);

void k_write(u32 sig, u32 site, u32 elem, i64 low, u32 width, const u64 *val, const u64 *unk) {
    const Sig *s = &K.sigs[sig];
    u32 words = words_of(s->width);
    u64 v[words], u[words];
    int hold = (s->flags & FLAG_FORCIBLE) && held && held[sig].on;
    memset(u, 0, sizeof u);
    if (elem >= s->elements) return;
    if (low == 0 && width == s->width) {
        memcpy(v, val, words * 8);
        memcpy(u, unk, words * 8);
    } else {
        u8 *at = K.mem + s->offset + (u64)elem * s->bytes * s->planes;
        bits_load(at, s->bytes, v);
        if (s->planes > 1) bits_load(at + s->bytes, s->bytes, u);
        if (hold) { memcpy(v, held[sig].base_val, words * 8); memcpy(u, held[sig].base_unk, words * 8); }
        insert_bits(v, s->width, val, low, width);
        insert_bits(u, s->width, unk, low, width);
    }
    if (s->planes == 1)
        for (u32 i = 0; i < words; i++) { v[i] &= ~u[i]; u[i] = 0; }
    if (hold) {
        memcpy(held[sig].base_val, v, words * 8);
        memcpy(held[sig].base_unk, u, words * 8);
        apply_held(sig, site);
        return;
    }
    store_whole(sig, site, elem, v, u);
}

/* A poke from outside: the same as an assignment, named site 0. */
void k_poke(u32 sig, u32 elem, const u64 *val, const u64 *unk) { k_write(sig, 0, elem, 0, K.sigs[sig].width, val, unk); }

/* ---- force and procedural assign: held bits win over what is assigned ---- */

static void apply_held(u32 sig, u32 site) {
    const Sig *s = &K.sigs[sig];
    Held *h = &held[sig];
    u32 words = words_of(s->width);
    u64 v[words], u[words];
    for (u32 i = 0; i < words; i++) {
        u64 m = h->mask_force[i] | h->mask_assign[i];
        v[i] = (h->base_val[i] & ~m) | (h->val[i] & m);
        u[i] = (h->base_unk[i] & ~m) | (h->unk[i] & m);
    }
    store_whole(sig, site, 0, v, u);
}

/* kind 0 force, 1 assign */
void k_hold(u32 sig, u32 site, i64 low, u32 width, const u64 *val, const u64 *unk, u32 kind) {
    const Sig *s = &K.sigs[sig];
    u32 words = words_of(s->width);
    if (!held) held = calloc(K.sig_count, sizeof *held);
    Held *h = &held[sig];
    if (!h->val) {
        u64 *all = calloc(6 * words, 8);
        h->val = all; h->unk = all + words; h->mask_force = all + 2 * words; h->mask_assign = all + 3 * words;
        h->base_val = all + 4 * words; h->base_unk = all + 5 * words;
    }
    u8 *at = K.mem + s->offset;
    if (!h->on) {
        bits_load(at, s->bytes, h->base_val);
        if (s->planes > 1) bits_load(at + s->bytes, s->bytes, h->base_unk);
        h->on = 1;
    }
    u64 ones[words];
    memset(ones, 0xff, sizeof ones);
    if (kind == 1) {                                  /* an assign under a force waits below it */
        insert_bits(h->base_val, s->width, val, low, width);
        insert_bits(h->base_unk, s->width, unk, low, width);
        insert_bits(h->mask_assign, s->width, ones, low, width);
        for (u32 i = 0; i < words; i++) {
            u64 m = h->mask_assign[i] & ~h->mask_force[i];
            h->val[i] = (h->val[i] & ~m) | (h->base_val[i] & m);
            h->unk[i] = (h->unk[i] & ~m) | (h->base_unk[i] & m);
        }
    } else {
        insert_bits(h->val, s->width, val, low, width);
        insert_bits(h->unk, s->width, unk, low, width);
        insert_bits(h->mask_force, s->width, ones, low, width);
    }
    apply_held(sig, site);
}

void held_scan(Scan *scan) {
    for (u32 sig = 0; held && sig < K.sig_count; sig++) if (held[sig].val) scan(held[sig].val, 48 * (u64)words_of(K.sigs[sig].width));
}

void k_release(u32 sig, u32 site, i64 low, u32 width, u32 kind) {
    if (!held || !held[sig].on) return;
    const Sig *s = &K.sigs[sig];
    Held *h = &held[sig];
    u32 words = words_of(s->width);
    u64 zeros[words];
    memset(zeros, 0, sizeof zeros);
    insert_bits(kind ? h->mask_assign : h->mask_force, s->width, zeros, low, width);
    u64 left = 0;
    for (u32 i = 0; i < words; i++) left |= h->mask_force[i] | h->mask_assign[i];
    if ((s->flags & FLAG_NET) || s->driver_count) {     /* its drivers give it back its value (1800-2017 10.6.2) */
        if (!left) h->on = 0;
        if (s->driver_count) { if (left) apply_held(sig, site); k_resolve(sig, site); }
        else apply_held(sig, site);
        return;
    }
    /* a variable keeps the forced value until its next assignment, unless a procedural assign is below (9.3.2) */
    u64 v[words], u[words];
    memset(u, 0, sizeof u);
    bits_load(K.mem + s->offset, s->bytes, v);
    if (s->planes > 1) bits_load(K.mem + s->offset + s->bytes, s->bytes, u);
    for (u32 i = 0; i < words; i++) {
        u64 m = h->mask_force[i] | h->mask_assign[i], below = h->mask_assign[i] & ~h->mask_force[i];
        if (!kind) {
            h->base_val[i] = (h->base_val[i] & m) | (v[i] & ~m);
            h->base_unk[i] = (h->base_unk[i] & m) | (u[i] & ~m);
        }
        h->val[i] = (h->val[i] & ~below) | (h->base_val[i] & below);
        h->unk[i] = (h->unk[i] & ~below) | (h->base_unk[i] & below);
    }
    if (left) apply_held(sig, site);
    if (!left) h->on = 0;
}

/* ---- drivers ---- */

/* A driver of one bit; most often it alone makes a net of one bit. `v` may hold HALF_LOW or HALF_HIGH beside the bit. */
void drive_bit(Driver *d, u32 v, u32 u) {
    u8 *own = K.mem + d->offset;
    if (own[0] == v && own[1] == u) return;
    own[0] = (u8)v; own[1] = (u8)u;
    v &= 1;
    if (LIKELY(d->simple)) {
        u8 *at = K.mem + d->value;
        u32 was = at[0] | at[1] << 1, is = v | u << 1;
        if (was == is) return;
        at[0] = (u8)v; at[1] = (u8)u;
        K.changes++;
        u32 watch = K.watch[d->sig];
        if (watch == WATCH_FAN) wake_fan(d, was, is);
        else if (watch) k_changed(d->sig, d->site, was, is);
        return;
    }
    if (UNLIKELY(!d->alone)) { k_resolve(d->sig, d->site); return; }
    const Sig *s = &K.sigs[d->sig];
    u64 val = v, unk = u;
    k_write(d->sig, d->site, d->low / s->width, d->low % s->width, 1, &val, &unk);
}

void k_drive(u32 number, u32 site, const u64 *val, const u64 *unk) {
    Driver *d = &K.drivers[number];
    u8 *at = K.mem + d->offset;
    u32 words = words_of(d->width);
    u64 v[words], u[words];
    bits_load(at, d->bytes, v);
    bits_load(at + d->bytes, d->bytes, u);
    if (!memcmp(v, val, words * 8) && !memcmp(u, unk, words * 8)) return;
    bits_store(at, d->bytes, val);
    bits_store(at + d->bytes, d->bytes, unk);
    u32 width = K.sigs[d->sig].width;
    if (LIKELY(d->alone)) k_write(d->sig, site, d->low / width, d->low % width, d->width, val, unk);
    else k_resolve(d->sig, site);
}

static Range bit_range(u32 v, u32 u, u32 s0, u32 s1) {
    if (v & HALF_LOW) return (Range){-(int)s0, 0};
    if (v & HALF_HIGH) return (Range){0, (int)s1};
    if (!u) return v ? (Range){(int)s1, (int)s1} : (Range){-(int)s0, -(int)s0};
    if (!v) return (Range){0, 0};
    return (Range){-(int)s0, (int)s1};
}

Range combine(Range a, Range b, u32 net) {
    Range r = {8, -8};
    for (int x = a.low; x <= a.high; x++)
        for (int y = b.low; y <= b.high; y++) {
            int low, high, ax = x < 0 ? -x : x, ay = y < 0 ? -y : y;
            if (ax > ay) low = high = x;
            else if (ay > ax) low = high = y;
            else if (x == y) low = high = x;
            else if (net == 1) low = high = -ax;      /* wand: 0 wins (4.6.2) */
            else if (net == 2) low = high = ax;       /* wor: 1 wins */
            else { low = -ax; high = ax; }
            if (low < r.low) r.low = low;
            if (high > r.high) r.high = high;
        }
    return r;
}

Range driver_bit(const Driver *d, u32 at) {
    const u8 *p = K.mem + d->offset;
    u32 v = p[at / 8] >> at % 8 & 1, u = p[d->bytes + at / 8] >> at % 8 & 1;
    if (d->width == 1) v |= p[0] & (HALF_LOW | HALF_HIGH);
    return bit_range(v, u, d->strength0, d->strength1);
}

static u64 left_out;               /* the joint whose drivers do not count now */

/* What the drivers alone make of a bit. The elements of an array are counted as one long vector. */
static Range driven_bit(const Sig *s, u32 bit) {
    Range r = {0, 0};
    for (u32 i = 0; i < s->driver_count; i++) {
        const Driver *d = &K.drivers[s->driver_first + i];
        if (bit < d->low || bit >= d->low + d->width || (d->joint && d->joint == left_out)) continue;
        r = combine(r, driver_bit(d, bit - d->low), s->net);
    }
    return r;
}

Range stored_bit(const Sig *s, u32 bit, u32 strength) {
    const u8 *p = K.mem + s->offset + (u64)(bit / s->width) * s->bytes * s->planes;
    bit %= s->width;
    return bit_range(p[bit / 8] >> bit % 8 & 1, s->planes > 1 ? p[s->bytes + bit / 8] >> bit % 8 & 1 : 0, strength, strength);
}

/* With the pull of tri0 and tri1 (4.6.4), the level of a supply net (4.6.5) and the charge of a trireg (4.6.3); a variable is a
 * strong source. */
static Range resolve_bit(const Sig *s, u32 bit) {
    if (!(s->flags & FLAG_NET)) return s->driver_count ? driven_bit(s, bit) : stored_bit(s, bit, 6);
    Range r = driven_bit(s, bit);
    switch (s->net) {
        case 3: return combine(r, (Range){-5, -5}, 0);
        case 4: return combine(r, (Range){5, 5}, 0);
        case 5: return combine(r, stored_bit(s, bit, s->flags >> 8 & 7), 0);
    }
    return r;
}

/* ---- switches: what drives one end drives the other while the switch is closed, either way (7.6) or only from b to a (7.5) ---- */

static Switch *switches; static u32 switch_count;
static u32 *group;                 /* by signal: signals that switches can join have the same number; 0 none */
static u32 *bit_base;              /* by signal: where its bits begin among those of all signals at switches */
static u32 *first_end, *next_end;  /* by bit: a chain of the ends of switches at it; end 2i + 2 is a of switch i, 2i + 3 its b */
static u32 *seen_in, seen_round;   /* by bit: the last walk that came by */
static u32 *settled_in, settle_round; static Range *settled_as;    /* by bit: what the last resolution of its group made of it */
static u32 *member_first, *members;/* by group: where its signals begin among all members */
enum { NODES = 4096, WIRE = 2 };

static int is_net(u32 sig) { return (K.sigs[sig].flags & FLAG_NET) != 0; }

void k_switches(Switch *list, u32 count) {
    switches = list; switch_count = count;
    free(group); free(members); free(member_first);
    group = calloc(K.sig_count + 1, sizeof *group);
    members = calloc(K.sig_count + 1, sizeof *members);
    member_first = calloc(count + 2, sizeof *member_first);
    free(bit_base); free(first_end); free(next_end); free(seen_in); free(settled_in); free(settled_as);
    bit_base = calloc(K.sig_count + 1, sizeof *bit_base);
    u32 bits = 1;                       /* 0: the signal has none yet */
    for (u32 i = 0; i < 2 * count; i++) {
        u32 sig = i % 2 ? list[i / 2].b : list[i / 2].a;
        if (bit_base[sig]) continue;
        bit_base[sig] = bits;
        bits += K.sigs[sig].width * K.sigs[sig].elements;
    }
    first_end = calloc(bits, sizeof *first_end);
    next_end = calloc(2 * count + 4, sizeof *next_end);
    seen_in = calloc(bits, sizeof *seen_in);
    settled_in = calloc(bits, sizeof *settled_in);
    settled_as = calloc(bits, sizeof *settled_as);
    for (u32 i = 0; i < count; i++)
        for (u32 k = 0; k < 2; k++) {
            u32 *chain = &first_end[k ? bit_base[list[i].b] + list[i].b_bit : bit_base[list[i].a] + list[i].a_bit], end = 2 * i + 2 + k;
            next_end[end] = *chain;
            *chain = end;
        }
    for (u32 i = 0; i < count; i++) {
        if (!is_net(list[i].b)) { if (!group[list[i].a]) group[list[i].a] = i + 1; continue; }
        u32 a = group[list[i].a], b = group[list[i].b], to = a ? a : b ? b : i + 1;
        for (u32 s = 0; s < K.sig_count; s++) if ((a && group[s] == a) || (b && group[s] == b)) group[s] = to;
        group[list[i].a] = group[list[i].b] = to;
    }
    for (u32 g = 0, at = 0; g <= count; g++) {
        member_first[g] = at;
        if (g) for (u32 s = 0; s < K.sig_count; s++) if (group[s] == g) members[at++] = s;
        member_first[g + 1] = at;
    }
}

/* 0 open, 1 closed, 2 unknown */
static int closed(const Switch *w) {
    if (w->control == ~0u) return 1;
    const Sig *s = &K.sigs[w->control];
    const u8 *p = K.mem + s->offset;
    u32 v = p[w->control_bit / 8] >> w->control_bit % 8 & 1;
    u32 u = s->planes > 1 ? p[s->bytes + w->control_bit / 8] >> w->control_bit % 8 & 1 : 0;
    return u ? 2 : v == w->active;
}

static int weaker(int strength) {  /* table 7-8 */
    static const int TO[8] = {0, 1, 1, 2, 2, 3, 5, 5};
    return strength < 0 ? -TO[-strength] : TO[strength];
}

typedef struct { u32 sig, bit, passes, switched; } Node;       /* passes: through resistive switches; switched: through any */

static Node nodes[NODES];          /* those of the last walk */
static u32 node_count;
static int met_unknown, plain;     /* in the last walk: a switch of unknown state; nothing but connections of nets of one kind */

/* What all sources within reach of a bit make of it, with switches of unknown state taken as `unknown_closed`; without the charge
 * of triregs if `charge` is 0. */
static Range reach_with(u32 sig, u32 bit, int unknown_closed, int charge) {
    u32 count = 1, at = 0;
    seen_round++;
    met_unknown = 0;
    plain = 1;
    seen_in[bit_base[sig] + bit] = seen_round;
    Range r = {0, 0};
    nodes[0] = (Node){sig, bit, 0, 0};
    for (; at < count; at++) {
        Node here = nodes[at];
        const Sig *s = &K.sigs[here.sig];
        Range own = charge || s->net != 5 ? resolve_bit(s, here.bit) : driven_bit(s, here.bit);
        for (u32 k = 0; k < here.passes; k++) own = (Range){weaker(own.low), weaker(own.high)};
        if (here.switched && here.passes == 0) {           /* a supply comes through as strong (7.13) */
            if (own.low == -7) own.low = -6;
            if (own.high == 7) own.high = 6;
            if (own.high == -7) own.high = -6;
            if (own.low == 7) own.low = 6;
        }
        r = combine(r, own, K.sigs[sig].net);
        plain &= s->net == K.sigs[sig].net && (s->flags & FLAG_NET) != 0;
        for (u32 end = first_end[bit_base[here.sig] + here.bit]; end && count < NODES; end = next_end[end]) {
            const Switch *w = &switches[end / 2 - 1];
            u32 to, to_bit;
            plain &= w->resistive == WIRE;
            if (end % 2 == 0) { to = w->b; to_bit = w->b_bit; }
            else if (!w->one_way) { to = w->a; to_bit = w->a_bit; }
            else continue;
            int state = closed(w);
            met_unknown |= state == 2;
            if (!state || (state == 2 && !unknown_closed)) continue;
            u32 *seen = &seen_in[bit_base[to] + to_bit];
            if (*seen == seen_round) continue;
            *seen = seen_round;
            nodes[count++] = (Node){to, to_bit, here.passes + (w->resistive == 1), here.switched | (w->resistive != WIRE)};
        }
    }
    node_count = count;
    return r;
}

/* A switch that may be open or closed makes every level possible that one of the two makes (7.10.2). */
static Range reach(u32 sig, u32 bit, int charge) {
    Range with = reach_with(sig, bit, 1, charge);
    if (!met_unknown) return with;
    Range without = reach_with(sig, bit, 0, charge);
    return (Range){with.low < without.low ? with.low : without.low, with.high > without.high ? with.high : without.high};
}

static int joined(u32 sig) { return group && group[sig]; }
static Range level(u32 sig, u32 bit) { return joined(sig) ? reach(sig, bit, 1) : resolve_bit(&K.sigs[sig], bit); }

static void put_bit(u32 bit, Range r, u64 *v, u64 *u) {
    u64 one = 1ULL << bit % 64;
    if (r.low > 0) v[bit / 64] |= one;
    else if (r.high < 0) ;
    else if (r.low == 0 && r.high == 0) u[bit / 64] |= one;
    else { v[bit / 64] |= one; u[bit / 64] |= one; }
}

/* The same for one bit after the other of a group in one resolution: bits that are only connected have one level. */
static Range group_level(u32 sig, u32 bit) {
    u32 id = bit_base[sig] + bit;
    if (settled_in[id] == settle_round) return settled_as[id];
    Range r = reach(sig, bit, 1);
    for (u32 k = 0; plain && k < node_count; k++) {
        u32 other = bit_base[nodes[k].sig] + nodes[k].bit;
        settled_in[other] = settle_round;
        settled_as[other] = r;
    }
    return r;
}

/* Resolves every signal of the group, all before the first is written: a charge that is shared must not change on the way. */
static void resolve_group(u32 number, u32 site) {
    static int busy;
    if (busy) return;
    busy = 1;
    settle_round++;
    u32 first = member_first[number], last = member_first[number + 1], total = 0;
    for (u32 i = first; i < last; i++) total += words_of(K.sigs[members[i]].width);
    u64 *values = calloc(2 * total, sizeof *values), *v = values;
    for (u32 i = first; i < last; i++) {
        u32 sig = members[i], width = K.sigs[sig].width, words = words_of(width);
        for (u32 bit = 0; bit < width; bit++) put_bit(bit, group_level(sig, bit), v, v + words);
        v += 2 * words;
    }
    v = values;
    for (u32 i = first; i < last; i++) {
        u32 sig = members[i], width = K.sigs[sig].width, words = words_of(width);
        k_write(sig, site, 0, 0, width, v, v + words);
        v += 2 * words;
    }
    free(values);
    busy = 0;
}

/* What the switches make of the start values. */
void k_join_all(void) { for (u32 i = 0; i < switch_count; i++) k_resolve(switches[i].a, 0); }

void switch_control_changed(u32 sig, u32 site) {
    for (u32 i = 0; i < switch_count; i++)
        if (switches[i].control == sig || (switches[i].b == sig && !is_net(sig))) k_resolve(switches[i].a, site);
}

/* ---- charge of trireg nets (4.4) ---- */

typedef struct { u64 ticks; u32 generation, undriven; } Charge;
static Charge *charges;
void k_decay(u32 sig, u64 ticks) {
    if (!charges) charges = calloc(K.sig_count + 1, sizeof *charges);
    charges[sig].ticks = ticks;
}
static int undriven(u32 sig, u32 bit) {
    Range r = joined(sig) ? reach(sig, bit, 0) : driven_bit(&K.sigs[sig], bit);
    return r.low == 0 && r.high == 0;
}
/* Begins to count when the last driver lets go of a bit. */
static void watch_charge(u32 sig) {
    if (!charges || !charges[sig].ticks) return;
    const Sig *s = &K.sigs[sig];
    u32 count = 0;
    for (u32 bit = 0; bit < s->width; bit++) count += undriven(sig, bit);
    if (count == charges[sig].undriven) return;
    if (count > charges[sig].undriven) push_decay(sig, ++charges[sig].generation, charges[sig].ticks);
    else charges[sig].generation++;
    charges[sig].undriven = count;
}
void charge_lost(u32 sig, u32 generation) {
    const Sig *s = &K.sigs[sig];
    if (charges[sig].generation != generation) return;
    u64 ones[1] = {1};
    for (u32 bit = 0; bit < s->width; bit++) if (undriven(sig, bit)) k_write(sig, 0, 0, bit, 1, ones, ones);
}

/* For a port between the languages: what this side makes of a net without the drivers of a joint, as values of std_ulogic, bit 0 first. Levels
 * below strong are weak there. */
void net_without(u32 sig, u64 joint, u8 *out) {
    enum { X = 1, ZERO, ONE, Z, W, L, H };
    left_out = joint;
    for (u32 bit = 0; bit < K.sigs[sig].width; bit++) {
        Range r = level(sig, bit);
        int most = -r.low > r.high ? -r.low : r.high;
        out[bit] = r.low > 0 ? r.low >= 6 ? ONE : H : r.high < 0 ? r.high <= -6 ? ZERO : L : !most ? Z : most >= 6 ? X : W;
    }
    left_out = 0;
}
/* A driver of a net that is joined with one of the other language has changed: that may matter there even if the net stays as it is. */
static void tell_joint(u32 sig, u32 site) { if (UNLIKELY(K.watch[sig] & WATCH_TYPED)) bridge_in(sig, site); }

void k_resolve(u32 sig, u32 site) {
    if (joined(sig)) {
        u32 number = group[sig];
        if (charges) for (u32 i = member_first[number]; i < member_first[number + 1]; i++) watch_charge(members[i]);
        resolve_group(number, site);
        for (u32 i = member_first[number]; i < member_first[number + 1]; i++) tell_joint(members[i], site);
        return;
    }
    watch_charge(sig);
    const Sig *s = &K.sigs[sig];
    u32 words = words_of(s->width);
    u64 v[words], u[words];
    for (u32 elem = 0; elem < s->elements; elem++) {
        memset(v, 0, sizeof v);
        memset(u, 0, sizeof u);
        for (u32 bit = 0; bit < s->width; bit++) put_bit(bit, resolve_bit(s, elem * s->width + bit), v, u);
        k_write(sig, site, elem, 0, s->width, v, u);
    }
    tell_joint(sig, site);
}

/* Strength of a bit as %v prints it (17.1.1.6): two letters or digits and a value. */
void strength_text(u32 sig, u32 bit, char *out) {
    static const char *NAMES[] = {"Hi", "Sm", "Me", "We", "La", "Pu", "St", "Su"};
    const Sig *s = &K.sigs[sig];
    const u32 source = s->net == 3 || s->net == 4 || s->net == 5 || joined(sig) || s->driver_count;
    Range r = source ? level(sig, bit) : stored_bit(s, bit, s->net >= 6 ? 7 : 6);
    if (r.low == 0 && r.high == 0) { memcpy(out, "HiZ", 4); return; }
    if (r.low == r.high) { snprintf(out, 24, "%s%c", NAMES[r.low < 0 ? -r.low : r.low], r.low < 0 ? '0' : '1'); return; }
    if (r.low >= 0) { r.low == 0 ? snprintf(out, 24, "%sH", NAMES[r.high]) : snprintf(out, 24, "%d%d1", r.high, r.low); return; }
    if (r.high <= 0) { r.high == 0 ? snprintf(out, 24, "%sL", NAMES[-r.low]) : snprintf(out, 24, "%d%d0", -r.low, -r.high); return; }
    if (-r.low == r.high) { snprintf(out, 24, "%sX", NAMES[r.high]); return; }
    snprintf(out, 24, "%d%dX", -r.low, r.high);
}
