/* Gates of one output bit, evaluated here instead of by code of their own (IEEE 1364-2005 7.2 to 7.4); and the fan-out of single bits
 * of a vector, so that a change of one bit wakes only the gates at that bit. */
#include "kernel.h"

typedef struct { u32 at; u8 shift, gap, two; u8 spare; } Input;     /* packed by engine/cells.py */
typedef struct {            /* 64 bytes, a line of the cache */
    u32 driver, site, first;        /* first: of its inputs in the table of those that have more than four */
    u8 kind, count, delayed, spare;
    u32 ticks[4];                   /* to 0, 1, z, x */
    Input in[4];
} Cell;
typedef struct { u32 sig, bit, proc; } BitFan;
enum { AND, NAND, OR, NOR, XOR, XNOR, BUF, NOT, BUFIF0, BUFIF1, NOTIF0, NOTIF1, NMOS, PMOS, KINDS };

static const Cell *cells; static const Input *many_inputs;

/* What a gate makes of its inputs (tables 7-3 to 7-6): by the set of values that they have and, from bit 4 on, whether an odd
 * number of them has its value bit set; for gates with a control by its data and its control. The level is in bits 0 to 2 (as for
 * drive_bit), the unknown in bit 3. */
static u8 outputs[KINDS][32];
enum { ZERO = 1, ONE = 2, UNKNOWN = 4 | 8 };                          /* sets of values: 0, 1, z or x */
enum { IS_Z = 8, IS_X = 9 };

static u8 inverted(u8 out) { return out < 2 ? out ^ 1 : out; }
static u8 of_set(u32 kind, u32 set, u32 odd) {
    switch (kind) {
        case AND: return set & ZERO ? 0 : set & UNKNOWN ? IS_X : 1;
        case OR: return set & ONE ? 1 : set & UNKNOWN ? IS_X : 0;
        case XOR: return set & UNKNOWN ? IS_X : (u8)odd;
        case NAND: case NOR: case XNOR: return inverted(of_set(kind - 1, set, odd));
        case BUF: return set & UNKNOWN ? IS_X : set == ONE;
        default: return inverted(of_set(BUF, set, odd));
    }
}
static u8 controlled(u32 kind, u32 x, u32 control) {
    u32 on = kind == BUFIF1 || kind == NOTIF1 || kind == NMOS;
    u8 r = x & 2 ? IS_X : (u8)x;
    if (kind >= NMOS && x == 2) r = IS_Z;                             /* a switch passes z on (7.5) */
    if (kind == NOTIF0 || kind == NOTIF1) r = inverted(r);
    if (control < 2) return control == on ? r : IS_Z;
    return r == 0 ? IS_X | HALF_LOW : r == 1 ? IS_X | HALF_HIGH : r;  /* L and H */
}
static void fill_outputs(void) {
    for (u32 kind = 0; kind < KINDS; kind++)
        for (u32 i = 0; i < 32; i++)
            outputs[kind][i] = kind < BUFIF0 ? of_set(kind, i & 15, i >> 4) : i < 16 ? controlled(kind, i & 3, i >> 2) : 0;
}

/* value in bit 0, unknown in bit 1 */
static inline u32 read(const Input *i) {
    const u8 *p = K.mem + i->at;
    u32 v = p[0] >> i->shift & 1, u = p[i->gap] >> i->shift & 1;
    return v | (u & ~i->two) << 1;
}
static inline const Input *inputs_of(const Cell *c) { return c->count <= 4 ? c->in : many_inputs + c->first; }

void evaluate_cell(u32 place) {
    const Cell *c = &cells[place];
    const Input *in = inputs_of(c);
    u32 index;
    if (c->kind < BUFIF0) {
        u32 set = 0, odd = 0;
        for (u32 k = 0; k < c->count; k++) { u32 x = read(&in[k]); set |= 1u << x; odd ^= x; }
        index = set | (odd & 1) << 4;
    } else index = read(&in[0]) | read(&in[1]) << 2;
    u32 out = outputs[c->kind][index], v = out & 7, u = out >> 3;
    if (c->delayed) drive_bit_after(c->driver, c->site, v, u, c->ticks[(v & 1) | u << 1]);
    else { Driver *d = &K.drivers[c->driver]; d->site = c->site; drive_bit(d, v, u); }
}
/* Has the memory fetch a cell; and when that is there, what it will read. */
void fetch_cell(u32 place) { __builtin_prefetch(&cells[place]); }
void fetch_inputs(u32 place) {
    const Cell *c = &cells[place];
    __builtin_prefetch(&K.drivers[c->driver]);
    __builtin_prefetch(K.mem + c->in[0].at);
    if (c->count > 1) __builtin_prefetch(K.mem + c->in[1].at);
}
/* The processes from `first` on are these cells. */
void k_cells(const Cell *table, const Input *more, u32 first, u32 count) {
    cells = table;
    many_inputs = more;
    fill_outputs();
    start_cells(first, count);
}

/* ---- fan-out by bit ---- */

typedef struct { u64 *seen; u32 *first; u32 *procs; } Bits;   /* the planes last seen; for each bit where its gates begin */
static Bits **by_sig;

void k_bit_fans(const BitFan *fans, u32 count) {
    by_sig = calloc(K.sig_count + 1, sizeof *by_sig);
    for (u32 i = 0; i < count;) {
        const Sig *s = &K.sigs[fans[i].sig];
        u32 words = words_of(s->width), last = i;
        while (last < count && fans[last].sig == fans[i].sig) last++;
        Bits *b = calloc(1, sizeof *b);
        b->seen = calloc(2 * words, 8);
        b->first = calloc(s->width + 1, sizeof *b->first);
        b->procs = calloc(last - i + 1, sizeof *b->procs);
        u32 at = 0, bit = 0;
        for (u32 k = i; k < last; k++) {
            while (bit <= fans[k].bit) b->first[bit++] = at;
            b->procs[at++] = fans[k].proc;
        }
        while (bit <= s->width) b->first[bit++] = at;
        bits_load(K.mem + s->offset, s->bytes, b->seen);
        if (s->planes > 1) bits_load(K.mem + s->offset + s->bytes, s->bytes, b->seen + words);
        by_sig[fans[i].sig] = b;
        K.watch[fans[i].sig] |= WATCH_BITS;
        i = last;
    }
}
void bits_changed(u32 sig) {
    const Sig *s = &K.sigs[sig];
    Bits *b = by_sig[sig];
    u32 words = words_of(s->width);
    u64 now[2 * words];
    memset(now, 0, sizeof now);
    bits_load(K.mem + s->offset, s->bytes, now);
    if (s->planes > 1) bits_load(K.mem + s->offset + s->bytes, s->bytes, now + words);
    for (u32 w = 0; w < words; w++) {
        u64 changed = (now[w] ^ b->seen[w]) | (now[words + w] ^ b->seen[words + w]);
        while (changed) {
            u32 bit = 64 * w + (u32)__builtin_ctzll(changed);
            changed &= changed - 1;
            for (u32 k = b->first[bit]; k < b->first[bit + 1]; k++) wake_static(b->procs[k]);
        }
    }
    memcpy(b->seen, now, sizeof now);
}
