/* What is shown of the signals of VHDL: planes of their elements, as the record keeps them. */
#include "planes.h"
#include "typed.h"

static const VSig *sigs; static u32 sig_count;
static const VLeaf *leaves;

void shown_open(const VSig *s, u32 count, const VLeaf *l) { sigs = s; sig_count = count; leaves = l; }

static void show(const VLeaf *l, const u8 *in) {
    const Sig *g = &K.sigs[l->sig_number];
    u8 *out = K.mem + g->offset;
    if (l->form == LEAF_NUMBER) memcpy(out, in, l->size);
    else planes_of(out, g->bytes, in, l->count, l->form == LEAF_NINE ? 4 : 1);
}

/* Records what an event has changed: nine values at once into their row. */
void record_typed(const VSig *s, u32 site) {
    for (u32 k = 0; k < s->leaf_count; k++) {
        const VLeaf *l = &leaves[s->leaf_first + k];
        if (l->at + l->size <= s->low || l->at >= s->high) continue;
        if (l->size < s->size && !differ(s->before + l->at, s->value + l->at, l->size)) continue;   /* all of it has changed */
        const u8 *in = s->value + l->at;
        if (l->form == LEAF_NINE) { v_record_nine(l->sig_number, site, in, l->count); continue; }
        show(l, in);
        record_change(l->sig_number, site);
    }
}

/* Brings what is shown of all signals to what they are now. */
void typed_show(void) {
    for (u32 n = 0; n < sig_count; n++)
        for (u32 k = 0; k < sigs[n].leaf_count; k++) {
            const VLeaf *l = &leaves[sigs[n].leaf_first + k];
            show(l, sigs[n].value + l->at);
        }
}
