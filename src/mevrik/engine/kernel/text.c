/* Strings (IEEE 1800-2017 6.16): each different text is kept once and known by a number, 0 is the empty one. So strings are
 * copied and compared for equality as numbers; a text never changes once it is kept. */
#include <ctype.h>
#include "kernel.h"

typedef struct { u32 size; char *bytes; u64 *planes; } Kept;   /* planes: as a vector, the first character highest; then zeros; made when asked for */
static Kept *kept; static u64 kept_count, kept_room;
static u32 *slots; static u64 slot_count;

static u64 hash(const char *data, u32 size) {
    u64 h = 1469598103934665603ULL;
    for (u32 i = 0; i < size; i++) h = (h ^ (u8)data[i]) * 1099511628211ULL;
    return h;
}

static void rehash(void) {
    slot_count = slot_count ? slot_count * 2 : 1024;
    free(slots);
    slots = calloc(slot_count, sizeof *slots);
    for (u64 i = 1; i < kept_count; i++) {
        u64 at = hash(kept[i].bytes, kept[i].size) & (slot_count - 1);
        while (slots[at]) at = (at + 1) & (slot_count - 1);
        slots[at] = (u32)i;
    }
}

/* Room for what is never given back. */
static char *bytes_for(u32 size) {
    enum { BLOCK = 1 << 16 };
    static char *at; static u32 left;
    if (size > BLOCK / 4) return malloc(size);
    if (size > left) { at = malloc(BLOCK); left = BLOCK; }
    char *here = at;
    at += size; left -= size;
    return here;
}
static u32 words_in(const Kept *k) { return (k->size + 7) / 8; }
static const u64 *planes_of(u64 t) {
    Kept *k = &kept[t];
    if (!k->planes) {
        k->planes = calloc(2 * words_in(k), 8);
        for (u32 i = 0; i < k->size; i++) ((u8 *)k->planes)[i] = (u8)k->bytes[k->size - 1 - i];
    }
    return k->planes;
}

u64 k_text(const char *data, u32 size) {
    if (!size) return 0;
    if (kept_count * 2 >= slot_count) rehash();
    u64 at = hash(data, size) & (slot_count - 1);
    for (; slots[at]; at = (at + 1) & (slot_count - 1)) {
        const Kept *k = &kept[slots[at]];
        if (k->size == size && !memcmp(k->bytes, data, size)) return slots[at];
    }
    if (kept_count + 1 >= kept_room) {
        kept_room = kept_room ? kept_room * 2 : 256;
        kept = realloc(kept, kept_room * sizeof *kept);
    }
    if (!kept_count) kept[kept_count++] = (Kept){0, "", 0};
    Kept k = {size, bytes_for(size + 1), 0};
    memcpy(k.bytes, data, size);
    k.bytes[size] = 0;
    kept[kept_count] = k;
    slots[at] = (u32)kept_count;
    return kept_count++;
}

const char *text_bytes(u64 t, u32 *size) {
    if (!t || t >= kept_count) { *size = 0; return ""; }
    *size = kept[t].size;
    return kept[t].bytes;
}

/* From a vector: eight bits a character, zeros are left out (6.16). */
u64 k_text_from(const u64 *val, const u64 *unk, u32 width) {
    u32 count = (width + 7) / 8, n = 0;
    char out[count + 1];
    for (u32 i = count; i-- > 0;) {
        u8 c = ((const u8 *)val)[i] & (u8)~((const u8 *)unk)[i];
        if (c) out[n++] = (char)c;
    }
    return k_text(out, n);
}

/* Into a vector of `width` bits: the last characters are kept. */
void k_text_into(u64 t, u64 *out, u32 width) {
    u32 words = words_of(width), size;
    memset(out, 0, 8 * words);
    text_bytes(t, &size);
    if (!size) return;
    u32 have = words_in(&kept[t]);
    memcpy(out, planes_of(t), 8 * (words < have ? words : have));
    if (width % 64) out[words - 1] &= low_ones(width % 64);
}

u64 k_text_join(u64 a, u64 b) {
    u32 m, n;
    const char *x = text_bytes(a, &m), *y = text_bytes(b, &n);
    if (!m) return b;
    if (!n) return a;
    char *both = malloc(m + n);
    memcpy(both, x, m); memcpy(both + m, y, n);
    u64 t = k_text(both, m + n);
    free(both);
    return t;
}
u64 k_text_repeat(u64 a, u32 count) { u64 r = 0; while (count--) r = k_text_join(r, a); return r; }

i64 k_text_compare(u64 a, u64 b, u32 fold) {
    u32 m, n;
    const u8 *x = (const u8 *)text_bytes(a, &m), *y = (const u8 *)text_bytes(b, &n);
    for (u32 i = 0; i < m && i < n; i++) {
        int c = fold ? tolower(x[i]) : x[i], d = fold ? tolower(y[i]) : y[i];
        if (c != d) return c < d ? -1 : 1;
    }
    return m < n ? -1 : m > n;
}
u32 k_text_size(u64 t) { u32 n; text_bytes(t, &n); return n; }
u32 k_text_get(u64 t, i64 i) { u32 n; const char *s = text_bytes(t, &n); return i >= 0 && i < n ? (u8)s[i] : 0; }
u64 k_text_put(u64 t, i64 i, u32 c) {
    u32 n;
    const char *s = text_bytes(t, &n);
    if (i < 0 || i >= n || !(c & 255)) return t;       /* no effect (6.16.2) */
    char copy[n];
    memcpy(copy, s, n);
    copy[i] = (char)c;
    return k_text(copy, n);
}
u64 k_text_part(u64 t, i64 first, i64 last) {
    u32 n;
    const char *s = text_bytes(t, &n);
    if (first < 0 || last < first || last >= n) return 0;   /* 6.16.8 */
    return k_text(s + first, (u32)(last - first + 1));
}
u64 k_text_case(u64 t, u32 upper) {
    u32 n;
    const char *s = text_bytes(t, &n);
    char copy[n + 1];
    for (u32 i = 0; i < n; i++) copy[i] = (char)(upper ? toupper((u8)s[i]) : tolower((u8)s[i]));
    return k_text(copy, n);
}
/* atoi and its family (6.16.9): digits and underscores up to the first other character. */
i64 k_text_number(u64 t, u32 radix) {
    u32 n;
    const char *s = text_bytes(t, &n);
    i64 r = 0, sign = 1;
    u32 i = 0;
    if (n && s[0] == '-' && radix == 10) { sign = -1; i = 1; }
    for (; i < n; i++) {
        int c = tolower((u8)s[i]), d = c >= '0' && c <= '9' ? c - '0' : c >= 'a' && c <= 'f' ? c - 'a' + 10 : 99;
        if (c == '_') continue;
        if (d >= (int)radix) break;
        r = r * radix + d;
    }
    return sign * r;
}
u64 k_text_of_number(i64 value, u32 radix) {
    char out[72];
    u32 n = sizeof out;
    u64 v = radix == 10 && value < 0 ? (u64)-value : radix == 10 ? (u64)value : (u64)(u32)value;
    do { out[--n] = "0123456789abcdef"[v % radix]; v /= radix; } while (v);
    if (radix == 10 && value < 0) out[--n] = '-';
    return k_text(out + n, (u32)(sizeof out - n));
}
double k_text_real(u64 t) {
    u32 n;
    const char *s = text_bytes(t, &n);
    char copy[n + 1];
    u32 k = 0;
    for (u32 i = 0; i < n; i++) if (s[i] != '_') copy[k++] = s[i];
    copy[k] = 0;
    return strtod(copy, 0);
}
u64 k_text_of_real(double x) { char out[64]; return k_text(out, (u32)snprintf(out, sizeof out, "%g", x)); }
u64 k_text_format(u32 radix, u32 inst, const char *scope, int unit, const Arg *args, u32 count) {
    size_t size;
    char *text = format_args(radix, inst, scope, unit, args, count, &size);
    u64 t = k_text(text, (u32)size);
    free(text);
    return t;
}
/* A string as an argument of a print: `format` where it is to be read as one. */
void k_text_arg(u64 t, Arg *out, u32 format) {
    static u64 nothing[2];
    u32 size;
    text_bytes(t, &size);
    *out = (Arg){format ? ARG_TEXT : ARG_STRING, 8 * size, size ? (u64 *)planes_of(t) : nothing, size ? (u64 *)planes_of(t) + words_in(&kept[t]) : nothing, ~0u, 0};
}
