/* Ports between the languages: four-state planes on one side, bytes of VHDL values on the other. */
#include "typed.h"

/* Out of VHDL or into it. An inout port has three: into VHDL what the net is without VHDL's own share, and out of it the share of the other
 * drivers, in a strong and a weak part. `driver`: that of the bridge in VHDL; typed: number of the signal there. */
enum { OUT, IN, IN_NET, OUT_STRONG, OUT_WEAK };
typedef struct { u32 way, sig, typed, at, size, form, count, driver; } Bridge;
static inline int goes_in(const Bridge *b) { return b->way == IN || b->way == IN_NET; }
static Bridge *bridges; static u32 bridge_count;

void k_bridges(Bridge *list, u32 count) { bridges = list; bridge_count = count; }

/* The value of the four-state side as bytes; form: LEAF_. */
static void to_bytes(const Bridge *b, u8 *out) {
    static const u8 NINE[4] = {2, 3, 4, 1};             /* 0 1 z x */
    const Sig *s = &K.sigs[b->sig];
    const u8 *v = K.mem + s->offset, *u = s->planes > 1 ? v + s->bytes : 0;
    if (b->way == IN_NET) {
        u8 levels[b->count];
        net_without(b->sig, b->driver + 1, levels);
        for (u32 i = 0; i < b->count; i++) out[b->count - 1 - i] = levels[i];
        return;
    }
    if (b->form == LEAF_NUMBER) {
        memset(out, 0, b->size);
        for (u32 i = 0; i < b->size && i < s->bytes; i++) out[i] = (u8)(v[i] & ~(u ? u[i] : 0));
        return;
    }
    for (u32 i = 0; i < b->count; i++) {
        u8 code = (u8)((v[i / 8] >> i % 8 & 1) | (u ? (u[i / 8] >> i % 8 & 1) << 1 : 0));
        out[b->count - 1 - i] = b->form == LEAF_NINE ? NINE[code] : code == 1;
    }
}

static void carry_out(const Bridge *b, u32 site) {
    /* U X 0 1 Z W L H -; whole, then the strong and the weak part: 0 0, 1 1, 2 z, 3 x */
    static const u8 CODES[3][9] = {{3, 3, 0, 1, 2, 3, 0, 1, 3}, {3, 3, 0, 1, 2, 2, 2, 2, 3}, {2, 2, 2, 2, 2, 3, 0, 1, 2}};
    static const u8 VAL[4] = {0, 1, 0, 1}, UNK[4] = {0, 0, 1, 1};
    const u8 *codes = CODES[b->way == OUT_STRONG ? 1 : b->way == OUT_WEAK ? 2 : 0];
    const Sig *s = &K.sigs[b->sig];
    u8 share[b->way == OUT ? 1 : b->size];
    if (b->way != OUT) typed_without(b->typed, b->driver, b->at, b->at + b->size, share);
    const u8 *in = b->way != OUT ? share : typed_value(b->typed) + b->at;
    u32 words = words_of(s->width);
    u64 v[words], u[words];
    memset(v, 0, sizeof v);
    memset(u, 0, sizeof u);
    if (b->form == LEAF_NUMBER) memcpy(v, in, b->size < sizeof v ? b->size : sizeof v);
    else
        for (u32 i = 0; i < b->count; i++) {
            u8 x = in[b->count - 1 - i];
            v[i / 64] |= (u64)(b->form == LEAF_NINE ? VAL[codes[x]] : x) << i % 64;
            u[i / 64] |= (u64)(b->form == LEAF_NINE ? UNK[codes[x]] : 0) << i % 64;
        }
    if (s->width % 64) v[words - 1] &= low_ones(s->width % 64);
    k_write(b->sig, site, 0, 0, s->width, v, u);
}

void bridge_in(u32 sig, u32 site) {
    for (u32 i = 0; i < bridge_count; i++) {
        const Bridge *b = &bridges[i];
        if (!goes_in(b) || b->sig != sig) continue;
        u8 *bytes = alloca(b->size + 8);
        to_bytes(b, bytes);
        if (b->way == IN_NET && !typed_differs(b->driver, b->at, bytes, b->size)) continue;
        typed_drive(b->driver, b->at, bytes, b->size, site, 0);
    }
}
void bridge_out(u32 number, u32 site) {
    for (u32 i = 0; i < bridge_count; i++) if (!goes_in(&bridges[i]) && bridges[i].typed == number) carry_out(&bridges[i], site);
}
/* First values: what comes in is the first value of its driver. */
void bridges_start(void) {
    for (u32 i = 0; i < bridge_count; i++) {
        const Bridge *b = &bridges[i];
        if (!goes_in(b)) continue;
        u8 *bytes = alloca(b->size + 8);
        to_bytes(b, bytes);
        typed_drive(b->driver, b->at, bytes, b->size, 0, 1);
        K.watch[b->sig] |= WATCH_TYPED;
    }
}
void bridges_out(void) { for (u32 i = 0; i < bridge_count; i++) if (!goes_in(&bridges[i])) carry_out(&bridges[i], 0); }
