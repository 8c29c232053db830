/* Gates of one output bit, evaluated here instead of by code of their own (IEEE 1364-2005 7.2 to 7.4); and the fan-out of single bits
 * of a vector, so that a change of one bit wakes only the gates at that bit. */
#include "kernel.h"

typedef struct { u32 kind, count, first, driver, site, delayed; u64 rise, fall, off; } Cell;       /* mirrored in engine/abi.py */
typedef struct { const u8 *val, *unk; u32 shift, spare; } Input;
typedef struct { u32 sig, bit, proc; } BitFan;
enum { AND, NAND, OR, NOR, XOR, XNOR, BUF, NOT, BUFIF0, BUFIF1, NOTIF0, NOTIF1, NMOS, PMOS };

static Cell *cells; static Input *inputs;

/* value in bit 0, unknown in bit 1 */
static inline u32 read(const Input *i) {
    if (!i->val) return i->shift;
    u32 v = *i->val >> i->shift & 1;
    return i->unk ? v | (*i->unk >> i->shift & 1) << 1 : v;
}
static u32 run_cell(u8 *mem, Frame *frame) {
    (void)mem;
    const Cell *c = (const Cell *)frame;
    const Input *in = inputs + c->first;
    u32 r = 0, half = 0, kind = c->kind;
    if (kind <= NOR) {
        u32 controlling = kind >= OR, unknown = 0, hit = 0;  /* an input of this value decides */
        for (u32 k = 0; k < c->count; k++) { u32 x = read(&in[k]); if (x & 2) unknown = 1; else hit |= x == controlling; }
        r = hit ? controlling : unknown ? 3 : !controlling;
    } else if (kind <= XNOR) {
        for (u32 k = 0; k < c->count; k++) { u32 x = read(&in[k]); r = (r | x) & 2 ? 3 : r ^ x; }
    } else {
        u32 x = read(&in[0]);
        r = x & 2 ? 3 : x;
        if (kind >= BUFIF0) {
            u32 e = read(&in[1]), on = kind == BUFIF1 || kind == NOTIF1 || kind == NMOS;
            if (kind >= NMOS && x == 2) r = 2;               /* a switch passes z on (7.5) */
            else if ((kind == NOTIF0 || kind == NOTIF1) && r < 2) r ^= 1;
            if (!(e & 2) && e != on) r = 2;
            else if (e & 2 && r < 2) half = r ? HALF_HIGH : HALF_LOW, r = 3;
            goto drive;
        }
        if (kind == NOT && r < 2) r ^= 1;
        goto drive;
    }
    if ((kind == NAND || kind == NOR || kind == XNOR) && r < 2) r ^= 1;
drive:
    if (c->delayed) drive_bit_after(c->driver, c->site, (r & 1) | half, r >> 1, c->rise, c->fall, c->off);
    else { Driver *d = &K.drivers[c->driver]; d->site = c->site; drive_bit(d, (r & 1) | half, r >> 1); }
    return 0;
}
/* Has the memory fetch what a cell will read. */
void fetch_inputs(const void *cell) {
    const Cell *c = cell;
    __builtin_prefetch(&inputs[c->first]);
    __builtin_prefetch(&K.drivers[c->driver]);
}
void fetch_values(const void *cell) {
    const Cell *c = cell;
    for (u32 k = 0; k < c->count && k < 4; k++) __builtin_prefetch(inputs[c->first + k].val);
}
void k_cells(Cell *table, Input *input_table) { cells = table; inputs = input_table; }
void k_cell(u32 number, u32 place) { start_cell(number, run_cell, &cells[place]); }

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
