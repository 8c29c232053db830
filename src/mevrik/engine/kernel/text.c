/* Strings (IEEE 1800-2017 6.16): each different text is kept once and known by a number, 0 is the empty one. So strings are
 * copied and compared for equality as numbers; a text never changes while it is kept. Those of the design itself are kept for good. */
#include <ctype.h>
#include "kernel.h"

typedef struct { u32 size; char *bytes; u64 *planes; } Kept;   /* planes: as a vector, the first character highest; then zeros; made when asked for */
static Kept *kept; static u64 kept_count, kept_room;
static u32 *slots; static u64 slot_count;
static u64 own = ~0ULL;                /* the first number that is no text of the design itself */
static u64 *unused; static u64 unused_count, unused_room;
static u8 *reached;
static char **blocks; static u64 block_count, block_room;       /* what the bytes of short texts lie in */
enum { BLOCK = 1 << 16, LONG = BLOCK / 4 };

static u64 hash(const char *data, u32 size) {
    u64 h = 1469598103934665603ULL;
    for (u32 i = 0; i < size; i++) h = (h ^ (u8)data[i]) * 1099511628211ULL;
    return h;
}

static void rehash(u64 count) {
    slot_count = count;
    free(slots);
    slots = calloc(slot_count, sizeof *slots);
    for (u64 i = 1; i < kept_count; i++) {
        if (!kept[i].bytes) continue;
        u64 at = hash(kept[i].bytes, kept[i].size) & (slot_count - 1);
        while (slots[at]) at = (at + 1) & (slot_count - 1);
        slots[at] = (u32)i;
    }
}

static char *block_at; static u32 block_left;
static char *bytes_for(u32 size) {
    if (size > LONG) return malloc(size);
    if (size > block_left) {
        blocks = grow(blocks, &block_room, block_count + 1, sizeof *blocks);
        block_at = blocks[block_count++] = malloc(BLOCK);
        block_left = BLOCK;
    }
    char *here = block_at;
    block_at += size; block_left -= size;
    return here;
}
static u64 handle_of(u64 number) { return number < own ? number : HANDLE(OF_TEXT, number); }
/* What follows is not the design's own. */
void k_texts_begin(void) { own = kept_count ? kept_count : 1; }
static u32 words_in(const Kept *k) { return (k->size + 7) / 8; }
static const u64 *planes_of(u64 t) {
    Kept *k = &kept[NUMBER(t)];
    if (!k->planes) {
        k->planes = calloc(2 * words_in(k), 8);
        owed += 16 * words_in(k);
        for (u32 i = 0; i < k->size; i++) ((u8 *)k->planes)[i] = (u8)k->bytes[k->size - 1 - i];
    }
    return k->planes;
}

u64 k_text(const char *data, u32 size) {
    if (!size) return 0;
    if (kept_count * 2 >= slot_count) rehash(slot_count ? slot_count * 2 : 1024);
    u64 at = hash(data, size) & (slot_count - 1);
    for (; slots[at]; at = (at + 1) & (slot_count - 1)) {
        const Kept *k = &kept[slots[at]];
        if (k->size == size && !memcmp(k->bytes, data, size)) return handle_of(slots[at]);
    }
    if (kept_count + 1 >= kept_room) {
        kept_room = kept_room ? kept_room * 2 : 256;
        kept = realloc(kept, kept_room * sizeof *kept);
    }
    if (!kept_count) kept[kept_count++] = (Kept){0, "", 0};
    Kept k = {size, bytes_for(size + 1), 0};
    memcpy(k.bytes, data, size);
    k.bytes[size] = 0;
    owed += sizeof k + size + 16;
    u64 number = unused_count ? unused[--unused_count] : kept_count++;
    kept[number] = k;
    slots[at] = (u32)number;
    return handle_of(number);
}

const char *text_bytes(u64 t, u32 *size) {
    t = NUMBER(t);
    if (!t || t >= kept_count || !kept[t].bytes) { *size = 0; return ""; }
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
    u32 have = words_in(&kept[NUMBER(t)]);
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
    *out = (Arg){format ? ARG_TEXT : ARG_STRING, 8 * size, size ? (u64 *)planes_of(t) : nothing, size ? (u64 *)planes_of(t) + words_in(&kept[NUMBER(t)]) : nothing, ~0u, 0};
}

/* ---- collection ---- */

void texts_ready(void) { reached = calloc(kept_count / 8 + 1, 1); }
void text_reached(u64 n) { if (n < kept_count) reached[n / 8] |= (u8)(1 << n % 8); }
/* Those that stay are brought together, so that the blocks of the others can be given back. */
u64 texts_swept(void) {
    u64 live = 0, old_count = block_count;
    char **old = blocks;
    blocks = 0; block_count = block_room = block_left = 0;
    for (u64 n = 1; n < kept_count; n++) {
        Kept *k = &kept[n];
        if (!k->bytes) continue;
        int is_long = k->size + 1 > LONG;
        if (n < own || reached[n / 8] >> n % 8 & 1) {
            live += sizeof *k + k->size + 16;
            if (!is_long) k->bytes = memcpy(bytes_for(k->size + 1), k->bytes, k->size + 1);
            continue;
        }
        if (is_long) free(k->bytes);
        free(k->planes);
        *k = (Kept){0, 0, 0};
        unused = grow(unused, &unused_room, unused_count + 1, sizeof *unused);
        unused[unused_count++] = n;
    }
    for (u64 i = 0; i < old_count; i++) free(old[i]);
    free(old); free(reached);
    if (slot_count) rehash(slot_count);
    return live;
}
