/* A value as an assignment pattern, as %p prints it (IEEE 1800-2017 21.2.1.7). What the value is, is told by a description that
 * elaborate/patterns.py writes: i/u WIDTH a number, t a text, r a real, h a handle, e WIDTH;VALUE=NAME;…; an enum,
 * s WIDTH(NAME@LOW:…;…) a structure, l(…) a list, m KEY(…) an associative array, p COUNT(…) an array in a vector. */
#include <ctype.h>
#include "kernel.h"

typedef struct { char *data; size_t size, room; } Out;
typedef struct { const u64 *val, *unk; u32 low; } Bits;

static void add(Out *o, const char *s, size_t n) {
    if (o->size + n + 1 > o->room) { o->room = (o->size + n + 1) * 2; o->data = realloc(o->data, o->room); }
    memcpy(o->data + o->size, s, n);
    o->size += n;
}
static u64 cut(const u64 *w, u32 low, u32 width) {       /* up to 64 bits */
    u64 v = w[low / 64] >> low % 64;
    if (low % 64 && low % 64 + width > 64) v |= w[low / 64 + 1] << (64 - low % 64);
    return v & low_ones(width);
}
static u32 count_of(const char **d) { u32 n = 0; while (isdigit((u8)**d)) n = n * 10 + (u32)(*(*d)++ - '0'); return n; }

static u32 width_of(const char *d) {                     /* bits that a described value takes */
    switch (*d++) {
    case 'i': case 'u': case 'e': case 's': return count_of(&d);
    case 'p': { u32 n = count_of(&d); d++; return n * width_of(d); }
    default: return 64;
    }
}
static void skip(const char **d) {                       /* behind one description */
    char kind = *(*d)++;
    if (kind == 'e') { count_of(d); (*d)++; while (isdigit((u8)**d) || **d == '-') { while (**d != ';') (*d)++; (*d)++; } return; }
    while (isdigit((u8)**d)) (*d)++;
    if (kind == 'm') skip(d);
    if (!strchr("splm", kind)) return;
    int depth = 0;
    do { depth += (**d == '(') - (**d == ')'); (*d)++; } while (depth);
}

static void number(Out *o, Bits b, u32 width, int is_signed) {
    u32 words = words_of(width);
    u64 v[words], u[words];
    for (u32 k = 0; k < words; k++) {
        u32 size = k + 1 == words && width % 64 ? width % 64 : 64;
        v[k] = cut(b.val, b.low + 64 * k, size);
        u[k] = cut(b.unk, b.low + 64 * k, size);
    }
    static const char FORMAT[] = "d0%";
    u64 text = 0, zero = 0;
    memcpy(&text, FORMAT, 3);
    Arg args[2] = {{ARG_TEXT, 24, &text, &zero, ~0u, 0}, {ARG_VECTOR | (is_signed ? ARG_SIGNED : 0), width, v, u, ~0u, 0}};
    size_t size;
    char *made = format_args(10, 0, "", 0, args, 2, &size);
    add(o, made, size);
    free(made);
}
static void add_text(Out *o, u64 t, int quoted) {
    u32 n;
    const char *s = text_bytes(t, &n);
    if (quoted) add(o, "\"", 1);
    add(o, s, n);
    if (quoted) add(o, "\"", 1);
}

static void spell(Out *o, const char **d, Bits b) {
    const char *start = *d;
    char kind = *(*d)++;
    if (kind == 'i' || kind == 'u') { u32 w = count_of(d); number(o, b, w, kind == 'i'); return; }
    if (kind == 't') { add_text(o, cut(b.val, b.low, 64) & ~cut(b.unk, b.low, 64), 1); return; }
    if (kind == 'r') {
        u64 bits = cut(b.val, b.low, 64);
        double x;
        char out[64];
        memcpy(&x, &bits, 8);
        add(o, out, (size_t)snprintf(out, sizeof out, "%g", x));
        return;
    }
    if (kind == 'h') {
        u64 h = cut(b.val, b.low, 64);
        char out[32];
        if (h) add(o, out, (size_t)snprintf(out, sizeof out, "object %llu", (unsigned long long)h)); else add(o, "null", 4);
        return;
    }
    if (kind == 'e') {
        u32 w = count_of(d);
        u64 v = w <= 64 ? cut(b.val, b.low, w) : 0, u = w <= 64 ? cut(b.unk, b.low, w) : 1;
        int done = 0;
        (*d)++;
        while (isdigit((u8)**d)) {
            u64 n = 0;
            while (isdigit((u8)**d)) n = n * 10 + (u64)(*(*d)++ - '0');
            const char *name = ++*d;
            while (**d != ';') (*d)++;
            if (!done && !u && n == v) { add(o, name, (size_t)(*d - name)); done = 1; }
            (*d)++;
        }
        if (!done) number(o, b, w, 0);
        return;
    }
    add(o, "'{", 2);
    if (kind == 's') {
        count_of(d);
        (*d)++;
        for (int first = 1; **d != ')'; first = 0) {
            const char *name = *d;
            while (**d != '@') (*d)++;
            if (!first) add(o, ", ", 2);
            add(o, name, (size_t)(*d - name));
            add(o, ":", 1);
            (*d)++;
            u32 low = count_of(d);
            (*d)++;
            spell(o, d, (Bits){b.val, b.unk, b.low + low});
            (*d)++;
        }
        (*d)++;
    } else if (kind == 'p') {
        u32 n = count_of(d);
        const char *inner = *d + 1;
        u32 w = width_of(inner);
        for (u32 k = 0; k < n; k++) {                    /* the leftmost element is the highest */
            const char *at = inner;
            if (k) add(o, ", ", 2);
            spell(o, &at, (Bits){b.val, b.unk, b.low + (n - 1 - k) * w});
        }
        skip(&start);
        *d = start;
    } else if (kind == 'l' || kind == 'm') {
        u64 h = cut(b.val, b.low, 64);
        const char *key = *d;
        if (kind == 'm') skip(d);
        const char *inner = *d + 1;
        u32 count = k_list_size(h), planes = 2, w = width_of(inner);
        for (u32 k = 0; k < count; k++) {
            const char *at = inner;
            u64 v[words_of(w) + 2], u[words_of(w) + 2];
            memset(v, 0, sizeof v); memset(u, 0, sizeof u);
            k_list_get(h, k, w, planes, v, u);
            if (k) add(o, ", ", 2);
            if (kind == 'm') {
                u64 name[2] = {k_map_key(h, k), 0}, known[2] = {0, 0};
                const char *as = key;
                spell(o, &as, (Bits){name, known, 0});
                add(o, ":", 1);
            }
            spell(o, &at, (Bits){v, u, 0});
        }
        skip(&start);
        *d = start;
    }
    add(o, "}", 1);
}

u64 k_text_pattern(const u64 *val, const u64 *unk, const char *description) {
    Out o = {0, 0, 0};
    add(&o, "", 0);
    spell(&o, &description, (Bits){val, unk, 0});
    u64 t = k_text(o.data, (u32)o.size);
    free(o.data);
    return t;
}
