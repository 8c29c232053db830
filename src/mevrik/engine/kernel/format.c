/* Text of values: the display family (IEEE 1364-2005 17.1, 17.3). */
#include <ctype.h>
#include <math.h>
#include "kernel.h"

typedef struct { char *data; size_t size, room; } Text;

static void put(Text *t, const char *s, size_t n) {
    if (t->size + n + 1 > t->room) {
        t->room = (t->size + n + 1) * 2;
        t->data = realloc(t->data, t->room);
    }
    memcpy(t->data + t->size, s, n);
    t->size += n;
    t->data[t->size] = 0;
}
static void put_char(Text *t, char c) { put(t, &c, 1); }
static void pad(Text *t, long n, char c) { while (n-- > 0) put_char(t, c); }

static u32 bit(const u64 *w, u32 i) { return (u32)(w[i / 64] >> i % 64 & 1); }

static int any_unknown(const Arg *a, int *all_x, int *all_z) {
    const u64 *v = a->val, *u = a->unk;
    int any = 0;
    *all_x = *all_z = 1;
    for (u32 i = 0; i < a->width; i++) {
        u32 vb = bit(v, i), ub = bit(u, i);
        any |= ub != 0;
        if (!(vb && ub)) *all_x = 0;
        if (!(!vb && ub)) *all_z = 0;
    }
    return any;
}

/* Decimal digits of a magnitude in words, which are used up. */
static size_t decimal(u64 *w, u32 words, char *out) {
    size_t n = 0;
    for (;;) {
        u64 rest = 0;
        int zero = 1;
        for (u32 i = words; i-- > 0;) {
            unsigned __int128 x = ((unsigned __int128)rest << 64) | w[i];
            w[i] = (u64)(x / 10);
            rest = (u64)(x % 10);
            if (w[i]) zero = 0;
        }
        out[n++] = (char)('0' + rest);
        if (zero) break;
    }
    for (size_t i = 0; i < n / 2; i++) { char c = out[i]; out[i] = out[n - 1 - i]; out[n - 1 - i] = c; }
    return n;
}

static u32 decimal_width(u32 width, int is_signed) {
    /* digits of the largest value, and a place for the sign */
    if (is_signed) return (u32)floor((width - 1) * 0.30102999566398119521) + 2;
    return (u32)floor(width * 0.30102999566398119521) + 1;
}

static double vector_real(const Arg *a) {
    const u64 *v = a->val, *u = a->unk;
    double r = 0;
    u32 words = words_of(a->width);
    int negative = (a->kind & ARG_SIGNED) && a->width && bit(v, a->width - 1) && !bit(u, a->width - 1);
    u64 copy[words];
    for (u32 i = 0; i < words; i++) copy[i] = v[i] & ~u[i];
    if (negative) {
        unsigned __int128 c = 1;
        for (u32 i = 0; i < words; i++) { c += (u64)~copy[i]; copy[i] = (u64)c; c >>= 64; }
        if (a->width % 64) copy[words - 1] &= low_ones(a->width % 64);
    }
    for (u32 i = words; i-- > 0;) r = r * 18446744073709551616.0 + (double)copy[i];
    return negative ? -r : r;
}

static void put_decimal(Text *t, const Arg *a, int field, int minimal) {
    char *out = malloc(a->width / 3 + 8);
    size_t n = 0;
    int all_x, all_z;
    u32 words = words_of(a->width);
    if (any_unknown(a, &all_x, &all_z)) {
        int has_x = 0;
        for (u32 i = 0; i < a->width; i++) has_x |= bit(a->val, i) && bit(a->unk, i);
        out[n++] = all_x ? 'x' : all_z ? 'z' : has_x ? 'X' : 'Z';
    } else {
        u64 w[words + 1];
        memcpy(w, a->val, words * 8);
        if ((a->kind & ARG_SIGNED) && bit(w, a->width - 1)) {
            unsigned __int128 c = 1;
            for (u32 i = 0; i < words; i++) { c += (u64)~w[i]; w[i] = (u64)c; c >>= 64; }
            if (a->width % 64) w[words - 1] &= low_ones(a->width % 64);
            out[n++] = '-';
        }
        n += decimal(w, words, out + n);
    }
    long width = field >= 0 ? field : minimal ? 0 : (long)decimal_width(a->width, (a->kind & ARG_SIGNED) != 0);
    size_t sign = minimal && field > 0 && out[0] == '-';       /* zeros before the number stand behind its sign */
    put(t, out, sign);
    pad(t, width - (long)n, minimal && field > 0 ? '0' : ' ');
    put(t, out + sign, n - sign);
    free(out);
}

static void put_radix(Text *t, const Arg *a, u32 bits, int field, int minimal) {
    u32 count = (a->width + bits - 1) / bits;
    char *out = malloc(count + 1);
    for (u32 d = 0; d < count; d++) {
        u32 low = (count - 1 - d) * bits, v = 0, u = 0, size = a->width - low < bits ? a->width - low : bits;
        for (u32 i = 0; i < size; i++) { v |= bit(a->val, low + i) << i; u |= bit(a->unk, low + i) << i; }
        u32 ones = (1u << size) - 1;
        out[d] = !u ? "0123456789abcdef"[v] : u == ones && v == ones ? 'x' : u == ones && !v ? 'z' : (v & u) ? 'X' : 'Z';
    }
    u32 first = 0;
    if (minimal || field >= 0) while (first + 1 < count && out[first] == '0') first++;
    pad(t, field - (long)(count - first), '0');
    put(t, out + first, count - first);
    free(out);
}

static void put_text(Text *t, const Arg *a, int field, int minimal) {
    u32 count = (a->width + 7) / 8, first = 0;
    char *out = malloc(count + 1);
    for (u32 i = 0; i < count; i++) {
        u32 c = 0, low = (count - 1 - i) * 8;
        for (u32 b = 0; b < 8 && low + b < a->width; b++) c |= (bit(a->val, low + b) & ~bit(a->unk, low + b) & 1) << b;
        out[i] = (char)c;
    }
    while (first < count && !out[first]) first++;         /* leading zeros print as blanks (17.1.1.7) */
    for (u32 i = first; i < count; i++) if (!out[i]) out[i] = ' ';
    long width = field >= 0 ? field : minimal || (a->kind & 255) == ARG_TEXT || (a->kind & 255) == ARG_STRING ? 0 : (long)count;
    pad(t, width - (long)(count - first), ' ');
    put(t, out + first, count - first);
    free(out);
}

/* %e, %f and %g have the full formatting capabilities of C (21.2.1.2): `flags` are those before the field's width. */
static void put_real(Text *t, double x, char kind, const char *flags, int field, int precision) {
    char form[16], out[512];
    snprintf(form, sizeof form, "%%%s*.*%c", flags, kind);
    int n = snprintf(out, sizeof out, form, field < 0 ? 0 : field, precision < 0 ? 6 : precision, x);
    put(t, out, (size_t)(n < (int)sizeof out ? n : (int)sizeof out - 1));
}

static double arg_real(const Arg *a) { return (a->kind & 255) == ARG_REAL ? *(double *)a->val : vector_real(a); }

/* %t (17.3.2): the value, in units of the calling module, in the units of $timeformat. */
static void put_time(Text *t, const Arg *a, int unit, int field, int minimal) {
    int target = K.time_unit == 99 ? K.tick_exp : K.time_unit;
    int digits = K.time_unit == 99 ? 0 : K.time_precision;
    char out[512];
    int n;
    if ((a->kind & 255) == ARG_VECTOR) {
        int all_x, all_z;
        if (any_unknown(a, &all_x, &all_z)) {
            n = snprintf(out, sizeof out, "%s", all_x ? "x" : all_z ? "z" : "X");
            goto done;
        }
    }
    int shift = unit - target;
    if ((a->kind & 255) == ARG_VECTOR && shift >= 0 && a->width <= 64) {
        unsigned __int128 v = *(u64 *)a->val;
        for (int i = 0; i < shift; i++) v *= 10;
        char tmp[64]; int m = 0;
        do { tmp[m++] = (char)('0' + (int)(v % 10)); v /= 10; } while (v && m < 60);
        for (n = 0; n < m; n++) out[n] = tmp[m - 1 - n];
        if (digits > 0) { out[n++] = '.'; for (int i = 0; i < digits && n < 500; i++) out[n++] = '0'; }
        out[n] = 0;
    } else {
        n = snprintf(out, sizeof out, "%.*f", digits, (double)((long double)arg_real(a) * powl(10.0L, shift)));
    }
    n += snprintf(out + n, sizeof out - (size_t)n, "%s", K.time_suffix);
done:;
    long width = field >= 0 ? field : minimal ? 0 : K.time_width;
    pad(t, width - n, ' ');
    put(t, out, (size_t)n);
}

void strength_text(u32 sig, u32 bit, char *out);

static void put_strength(Text *t, const Arg *a) {
    for (u32 i = a->width; i-- > 0;) {
        char out[24] = "";
        if (a->sig != ~0u) strength_text(a->sig, a->bit + i, out);
        else { u32 v = bit(a->val, i), u = bit(a->unk, i); memcpy(out, !u ? (v ? "St1" : "St0") : v ? "StX" : "HiZ", 4); }
        put(t, out, 3);
        if (i) put_char(t, ' ');
    }
}

static void put_raw(Text *t, const Arg *a, int planes) {
    u32 words = (a->width + 31) / 32;
    const u32 *v = a->val, *u = a->unk;
    for (u32 i = 0; i < words; i++) {
        u32 x = planes == 1 ? v[i] & ~u[i] : v[i];
        put(t, (const char *)&x, 4);
        if (planes == 2) put(t, (const char *)&u[i], 4);
    }
}

static void put_scope(Text *t, u32 inst, const char *scope) {
    if (*scope == '/') {                /* a path from the top */
        size_t length = strlen(scope + 1);
        put(t, scope + 1, length && scope[length] == '.' ? length - 1 : length);
        return;
    }
    for (; *scope == '^'; scope++) inst = K.inst_parents[inst];         /* what is above */
    const char *name = K.inst_names[inst];
    put(t, name, strlen(name));
    size_t n = strlen(scope);
    if (n) { put_char(t, '.'); put(t, scope, scope[n - 1] == '.' ? n - 1 : n); }
}

static void put_default(Text *t, const Arg *a, u32 radix) {
    if ((a->kind & 255) == ARG_REAL) { put_real(t, *(double *)a->val, 'g', "", -1, -1); return; }
    if ((a->kind & 255) == ARG_STRING) { if (a->width) put_text(t, a, -1, 1); return; }
    if (radix == 2) put_radix(t, a, 1, -1, 0);
    else if (radix == 8) put_radix(t, a, 3, -1, 0);
    else if (radix == 16) put_radix(t, a, 4, -1, 0);
    else put_decimal(t, a, -1, 0);
}

static Arg as_vector(const Arg *a, u64 *val, u64 *unk) {
    Arg r = *a;
    if ((a->kind & 255) == ARG_REAL) {
        *val = (u64)(i64)llround(*(double *)a->val);
        *unk = 0;
        r = (Arg){ARG_VECTOR | ARG_SIGNED, 64, val, unk, ~0u, 0};
    }
    return r;
}

char *format_args(u32 radix, u32 inst, const char *scope, int unit, const Arg *args, u32 count, size_t *size) {
    Text t = {0, 0, 0};
    put(&t, "", 0);
    for (u32 i = 0; i < count; i++) {
        const Arg *a = &args[i];
        if ((a->kind & 255) == ARG_NONE) { put_char(&t, ' '); continue; }
        if ((a->kind & 255) != ARG_TEXT) { put_default(&t, a, radix); continue; }
        u32 n = a->width / 8;
        char *f = malloc(n + 1);
        for (u32 c = 0; c < n; c++) f[c] = (char)(((u64 *)a->val)[(n - 1 - c) / 8] >> ((n - 1 - c) % 8 * 8));
        f[n] = 0;
        if (n == 1 && !f[0]) n = 0;
        for (u32 c = 0; c < n; c++) {
            if (f[c] != '%') { put_char(&t, f[c]); continue; }
            u32 start = c++;
            int minimal = 0, field = -1, precision = -1, left = 0, sign = 0;
            if (c < n && f[c] == '+') { sign = 1; c++; }
            if (c < n && f[c] == '-') { left = 1; c++; }
            if (c < n && f[c] == '0') { minimal = 1; c++; }
            if (c < n && isdigit((u8)f[c])) { field = 0; while (c < n && isdigit((u8)f[c])) field = field * 10 + (f[c++] - '0'); }
            if (c < n && f[c] == '.') { precision = 0; c++; while (c < n && isdigit((u8)f[c])) precision = precision * 10 + (f[c++] - '0'); }
            if (field > 100000) field = 100000;
            if (precision > 300) precision = 300;
            char k = c < n ? (char)tolower((u8)f[c]) : 0;
            if (k == '%') { put_char(&t, '%'); continue; }
            if (k == 'm') { put_scope(&t, inst, scope); continue; }
            if (k == 'l') { put(&t, K.inst_names[inst], strlen(K.inst_names[inst])); continue; }
            if (!k || !strchr(sign ? "efg" : "bodhxcstefgvuzp", k)) { put(&t, f + start, c - start + (c < n)); continue; }
            if (i + 1 >= count || (args[i + 1].kind & 255) == ARG_NONE) {     /* no argument left: the text as it stands */
                put(&t, f + start, c - start + 1);
                if (i + 1 < count) i++;
                continue;
            }
            const Arg *b = &args[++i];
            u64 rv, ru;
            size_t before = t.size;
            int width = left ? -1 : field;
            if (left) minimal = 1;
            switch (k) {
            case 'b': { Arg v = as_vector(b, &rv, &ru); put_radix(&t, &v, 1, width, minimal); break; }
            case 'o': { Arg v = as_vector(b, &rv, &ru); put_radix(&t, &v, 3, width, minimal); break; }
            case 'h': case 'x': { Arg v = as_vector(b, &rv, &ru); put_radix(&t, &v, 4, width, minimal); break; }
            case 'd': { Arg v = as_vector(b, &rv, &ru); put_decimal(&t, &v, width, minimal); break; }
            case 'c': { Arg v = as_vector(b, &rv, &ru); put_char(&t, (char)(((u64 *)v.val)[0] & 255)); break; }
            case 's': { Arg v = as_vector(b, &rv, &ru); put_text(&t, &v, width, minimal); break; }
            case 't': put_time(&t, b, unit, width, minimal && field < 0); break;
            case 'e': case 'f': case 'g': put_real(&t, arg_real(b), k, sign ? minimal ? "+0" : "+" : minimal ? "0" : "", width, precision); break;
            case 'v': put_strength(&t, b); break;
            case 'u': put_raw(&t, b, 1); break;
            case 'z': put_raw(&t, b, 2); break;
            case 'p':                           /* a number as it stands in a pattern: without blanks before it */
                if ((b->kind & 255) == ARG_REAL || (b->kind & 255) == ARG_STRING) put_default(&t, b, 10);
                else put_decimal(&t, b, -1, 1);
                break;
            }
            if (left) pad(&t, (long)before + field - (long)t.size, ' ');
        }
        free(f);
    }
    *size = t.size;
    return t.data;
}
