/* Arithmetic and comparison of vectors of bits kept as bytes, the leftmost first (IEEE 1076-2008 16.7, 16.8; the packages numeric_std and
 * std_logic_1164). Nine values: U X 0 1 Z W L H - are 0 to 8: bit 1 says that a value is known, bit 0 which it is. `nine` 0: bits. */
#include "typed.h"

enum { X = 1, ZERO = 2, ONE = 3 };

static u8 *vector(Vec *out, i64 length) {
    u8 *p = arena((u64)(length > 0 ? length : 1));
    *out = (Vec){p, length - 1, 0, 1};
    return p;
}
static void fill_x(u8 *p, i64 n) { memset(p, X, (size_t)(n > 0 ? n : 0)); }

/* The bits of a vector, extended to `words` words; 0 if one of them is a metavalue. Eight bytes at a time: a multiplication brings the
 * lowest bit of each to one byte, the first one highest. */
#define EACH 0x0101010101010101ULL
static int pack(const u8 *p, i64 n, int is_signed, int nine, u64 *words, u32 count) {
    memset(words, 0, count * 8);
    u64 known = 2 * EACH;
    i64 at = 0;
    for (; n - at >= 8; at += 8) {
        u64 w;
        memcpy(&w, p + n - at - 8, 8);
        known &= w;
        words[at / 64] |= ((w & EACH) * 0x8040201008040201ULL >> 56) << at % 64;
    }
    for (; at < n; at++) {
        u8 b = p[n - 1 - at];
        known &= b * EACH;
        words[at / 64] |= (u64)(b & 1) << at % 64;
    }
    if (is_signed && n > 0 && (p[0] & 1)) {
        if (n % 64) words[n / 64] |= ~0ULL << n % 64;
        for (u32 w = (u32)((n + 63) / 64); w < count; w++) words[w] = ~0ULL;
    }
    return !nine || known == 2 * EACH;
}
static void unpack(u8 *p, i64 n, int nine, const u64 *words) {
    u64 base = nine ? 2 * EACH : 0;
    i64 at = 0;
    for (; n - at >= 8; at += 8) {
        u64 w = ((words[at / 64] >> at % 64 & 255) * EACH & 0x0102040810204080ULL) + 0x7f * EACH;
        w = (w >> 7 & EACH) + base;
        memcpy(p + n - at - 8, &w, 8);
    }
    for (; at < n; at++) p[n - 1 - at] = (u8)base + (u8)(words[at / 64] >> at % 64 & 1);
}
static i64 longer(i64 a, i64 b) { return a > b ? a : b; }
#define LEN(x) vec_length(x##l, x##r, x##d)
#define VEC(x) const u8 *x, i64 x##l, i64 x##r, i64 x##d

/* l + r, or l - r. */
void x_add(Vec *out, VEC(a), VEC(b), i64 subtract, i64 is_signed, i64 nine) {
    i64 n = LEN(a), m = LEN(b), size = n && m ? longer(n, m) : 0;
    u8 *p = vector(out, size);
    if (!size) return;
    u32 words = (u32)((size + 63) / 64);
    u64 x[words], y[words];
    if (!pack(a, n, (int)is_signed, (int)nine, x, words) | !pack(b, m, (int)is_signed, (int)nine, y, words)) { fill_x(p, size); return; }
    unsigned __int128 carry = subtract ? 1 : 0;
    for (u32 i = 0; i < words; i++) {
        carry += (unsigned __int128)x[i] + (subtract ? ~y[i] : y[i]);
        x[i] = (u64)carry;
        carry >>= 64;
    }
    unpack(p, size, (int)nine, x);
}
void x_negate(Vec *out, VEC(a), i64 only_negative, i64 nine) {
    i64 n = LEN(a);
    u8 *p = vector(out, n);
    if (!n) return;
    u32 words = (u32)((n + 63) / 64);
    u64 x[words];
    if (!pack(a, n, 1, (int)nine, x, words)) { fill_x(p, n); return; }
    if (!only_negative || (a[0] & 1)) {
        unsigned __int128 carry = 1;
        for (u32 i = 0; i < words; i++) { carry += (u64)~x[i]; x[i] = (u64)carry; carry >>= 64; }
    }
    unpack(p, n, (int)nine, x);
}
void x_mul(Vec *out, VEC(a), VEC(b), i64 is_signed, i64 nine) {
    i64 n = LEN(a), m = LEN(b), size = n && m ? n + m : 0;
    u8 *p = vector(out, size);
    if (!size) return;
    u32 words = (u32)((size + 63) / 64);
    u64 x[words], y[words], z[words];
    if (!pack(a, n, (int)is_signed, (int)nine, x, words) | !pack(b, m, (int)is_signed, (int)nine, y, words)) { fill_x(p, size); return; }
    memset(z, 0, sizeof z);
    for (u32 i = 0; i < words; i++) {
        unsigned __int128 carry = 0;
        for (u32 j = 0; i + j < words; j++) {
            carry += (unsigned __int128)x[i] * y[j] + z[i + j];
            z[i + j] = (u64)carry;
            carry >>= 64;
        }
    }
    unpack(p, size, (int)nine, z);
}

static void negate(u64 *x, u32 words) {
    unsigned __int128 carry = 1;
    for (u32 i = 0; i < words; i++) { carry += (u64)~x[i]; x[i] = (u64)carry; carry >>= 64; }
}
static int is_zero(const u64 *x, u32 words) { u64 any = 0; for (u32 i = 0; i < words; i++) any |= x[i]; return !any; }

static void divide(u64 *x, const u64 *y, u64 *quotient, u64 *remainder, u32 words) {
    memset(quotient, 0, words * 8);
    memset(remainder, 0, words * 8);
    if (words == 1) { quotient[0] = x[0] / y[0]; remainder[0] = x[0] % y[0]; return; }
    for (i64 bit = (i64)words * 64 - 1; bit >= 0; bit--) {
        for (u32 i = words; i-- > 0;) remainder[i] = remainder[i] << 1 | (i ? remainder[i - 1] >> 63 : x[bit / 64] >> bit % 64 & 1);
        int less = 0;
        for (u32 i = words; i-- > 0;) if (remainder[i] != y[i]) { less = remainder[i] < y[i]; break; }
        if (less) continue;
        unsigned __int128 carry = 1;
        for (u32 i = 0; i < words; i++) { carry += (unsigned __int128)remainder[i] + (u64)~y[i]; remainder[i] = (u64)carry; carry >>= 64; }
        quotient[bit / 64] |= 1ULL << bit % 64;
    }
}
/* what: 0 quotient (as long as l), 1 rem, 2 mod (as long as r). 0 in `ok`: divided by zero. */
void x_div(Vec *out, VEC(a), VEC(b), i64 what, i64 is_signed, i64 nine) {
    i64 n = LEN(a), m = LEN(b), size = n && m ? (what ? m : n) : 0;
    u8 *p = vector(out, size);
    if (!size) return;
    u32 words = (u32)((longer(n, m) + 64) / 64);
    u64 x[words], y[words], q[words], r[words];
    if (!pack(a, n, (int)is_signed, (int)nine, x, words) | !pack(b, m, (int)is_signed, (int)nine, y, words)) { fill_x(p, size); return; }
    if (is_zero(y, words)) v_stop(0, "NUMERIC_STD.DIVMOD: DIV, MOD, or REM by zero");
    int neg_x = is_signed && x[words - 1] >> 63, neg_y = is_signed && y[words - 1] >> 63;
    if (neg_x) negate(x, words);
    if (neg_y) negate(y, words);
    divide(x, y, q, r, words);
    if (what == 0) { if (neg_x != neg_y) negate(q, words); unpack(p, size, (int)nine, q); return; }
    if (neg_x) negate(r, words);
    if (what == 2 && !is_zero(r, words) && neg_x != neg_y) {
        if (neg_y) negate(y, words);
        unsigned __int128 carry = 0;
        for (u32 i = 0; i < words; i++) { carry += (unsigned __int128)r[i] + y[i]; r[i] = (u64)carry; carry >>= 64; }
    }
    unpack(p, size, (int)nine, r);
}
/* -1, 0, 1; 2 if a metavalue is in one of them, 3 if one is empty. */
i64 x_order(VEC(a), VEC(b), i64 is_signed, i64 nine) {
    i64 n = LEN(a), m = LEN(b);
    if (!n || !m) return 3;
    u32 words = (u32)((longer(n, m) + 64) / 64);
    u64 x[words], y[words];
    if (!pack(a, n, (int)is_signed, (int)nine, x, words) | !pack(b, m, (int)is_signed, (int)nine, y, words)) return 2;
    if (is_signed && (x[words - 1] >> 63) != (y[words - 1] >> 63)) return x[words - 1] >> 63 ? -1 : 1;
    for (u32 i = words; i-- > 0;) if (x[i] != y[i]) return x[i] < y[i] ? -1 : 1;
    return 0;
}
/* how: 0 left, 1 right with zeros, 2 right with the sign, 3 rotate left, 4 rotate right. */
void x_shift(Vec *out, VEC(a), i64 count, i64 how, i64 nine) {
    i64 n = LEN(a);
    u8 *p = vector(out, n), none = nine ? ZERO : 0;
    if (!n) return;
    if (how >= 3) { count %= n; if (how == 4) count = (n - count) % n; for (i64 i = 0; i < n; i++) p[i] = a[(i + count) % n]; return; }
    if (how == 2) none = a[0];
    for (i64 i = 0; i < n; i++) {
        i64 from = how ? i - count : i + count;
        p[i] = from >= 0 && from < n ? a[from] : none;
    }
}
/* how: 0 zeros in front, 1 the sign (and kept when it gets shorter). */
void x_resize(Vec *out, VEC(a), i64 size, i64 how, i64 nine) {
    i64 n = LEN(a);
    u8 *p = vector(out, size), none = nine ? ZERO : 0;
    if (size < 1) return;
    if (!n) { memset(p, none, (size_t)size); return; }
    for (i64 i = 0; i < size; i++) {
        i64 from = i - (size - n);
        p[i] = from >= 0 ? a[from] : how ? a[0] : none;
    }
    if (how && size < n) p[0] = a[0];
}
/* A number as a vector; *lost (by the way of a second result) is not needed: x_fits says it. */
void x_from_integer(Vec *out, i64 value, i64 size, i64 nine) {
    u8 *p = vector(out, size), base = nine ? 2 : 0;
    for (i64 i = 0; i < size; i++) p[size - 1 - i] = base + (u8)((i < 64 ? value >> i : value >> 63) & 1);
}
i64 x_fits(i64 value, i64 size, i64 is_signed) {
    if (size >= 63) return 1;
    if (size < 1) return value == 0;
    return is_signed ? value >= -(1LL << (size - 1)) && value < 1LL << (size - 1) : value >= 0 && value < 1LL << size;
}
/* The value; the smallest number there is for a metavalue, the one after that for one out of range. */
i64 x_to_integer(VEC(a), i64 is_signed, i64 nine) {
    i64 n = LEN(a);
    if (!n) return 0;
    u32 words = (u32)((n + 64) / 64);
    u64 x[words];
    if (!pack(a, n, (int)is_signed, (int)nine, x, words)) return INT64_MIN;
    for (u32 i = 1; i < words; i++) if (x[i] != ((i64)x[0] < 0 ? ~0ULL : 0)) return INT64_MIN + 1;
    i64 v = (i64)x[0];
    if (v < -2147483648LL || v > 2147483647LL) return INT64_MIN + 1;
    return v;
}

static const u8 AND[9][9] = {
    {0, 0, 2, 0, 0, 0, 2, 0, 0}, {0, 1, 2, 1, 1, 1, 2, 1, 1}, {2, 2, 2, 2, 2, 2, 2, 2, 2}, {0, 1, 2, 3, 1, 1, 2, 3, 1},
    {0, 1, 2, 1, 1, 1, 2, 1, 1}, {0, 1, 2, 1, 1, 1, 2, 1, 1}, {2, 2, 2, 2, 2, 2, 2, 2, 2}, {0, 1, 2, 3, 1, 1, 2, 3, 1},
    {0, 1, 2, 1, 1, 1, 2, 1, 1}};
static const u8 OR[9][9] = {
    {0, 0, 0, 3, 0, 0, 0, 3, 0}, {0, 1, 1, 3, 1, 1, 1, 3, 1}, {0, 1, 2, 3, 1, 1, 2, 3, 1}, {3, 3, 3, 3, 3, 3, 3, 3, 3},
    {0, 1, 1, 3, 1, 1, 1, 3, 1}, {0, 1, 1, 3, 1, 1, 1, 3, 1}, {0, 1, 2, 3, 1, 1, 2, 3, 1}, {3, 3, 3, 3, 3, 3, 3, 3, 3},
    {0, 1, 1, 3, 1, 1, 1, 3, 1}};
static const u8 XOR[9][9] = {
    {0, 0, 0, 0, 0, 0, 0, 0, 0}, {0, 1, 1, 1, 1, 1, 1, 1, 1}, {0, 1, 2, 3, 1, 1, 2, 3, 1}, {0, 1, 3, 2, 1, 1, 3, 2, 1},
    {0, 1, 1, 1, 1, 1, 1, 1, 1}, {0, 1, 1, 1, 1, 1, 1, 1, 1}, {0, 1, 2, 3, 1, 1, 2, 3, 1}, {0, 1, 3, 2, 1, 1, 3, 2, 1},
    {0, 1, 1, 1, 1, 1, 1, 1, 1}};
static const u8 NOT[9] = {0, 1, 3, 2, 1, 1, 3, 2, 1};

/* op: 0 and, 1 or, 2 nand, 3 nor, 4 xor, 5 xnor */
static inline u8 logic(u8 a, u8 b, i64 op, i64 nine) {
    if (!nine) { u8 v = op == 0 || op == 2 ? a & b : op == 1 || op == 3 ? a | b : a ^ b; return op == 2 || op == 3 || op == 5 ? !v : v; }
    u8 v = op == 0 || op == 2 ? AND[a][b] : op == 1 || op == 3 ? OR[a][b] : XOR[a][b];
    return op == 2 || op == 3 || op == 5 ? NOT[v] : v;
}
/* Eight of nine values at once, if all are '0' or '1': bit 1 of each is set then and bit 0 is its level. */
#define EIGHT(x) ((u64)(x) * 0x0101010101010101ULL)
static inline int eight_known(u64 word) { return (word & EIGHT(0xfe)) == EIGHT(ZERO); }
static inline u64 eight(u64 a, u64 b, i64 op) {
    u64 v = op == 0 || op == 2 ? a & b : op == 1 || op == 3 ? a | b : (a ^ b) | EIGHT(ZERO);
    return op == 2 || op == 3 || op == 5 ? v ^ EIGHT(1) : v;
}
i64 x_logic1(i64 a, i64 b, i64 op) { return logic((u8)a, (u8)b, op, 1); }
i64 x_not1(i64 a) { return NOT[a]; }
/* Element by element; the result goes from `left` of the first, or from 1 upwards. Different lengths are an error. */
void x_logic(Vec *out, VEC(a), VEC(b), i64 op, i64 nine) {
    static const char *NAMES[] = {"and", "or", "nand", "nor", "xor", "xnor"};
    i64 n = LEN(a), m = LEN(b);
    if (n != m) v_stop(0, "the operands of '%s' have different lengths: %lld and %lld", NAMES[op], (long long)n, (long long)m);
    u8 *p = arena((u64)(n > 0 ? n : 1));
    i64 i = 0;
    for (u64 v, w; nine && i + 8 <= n; i += 8) {
        memcpy(&v, a + i, 8); memcpy(&w, b + i, 8);
        if (!eight_known(v) || !eight_known(w)) break;
        v = eight(v, w, op);
        memcpy(p + i, &v, 8);
    }
    for (; i < n; i++) p[i] = logic(a[i], b[i], op, nine);
    *out = (Vec){p, 1, n, 0};
}
/* A vector and one value. */
void x_logic_with(Vec *out, VEC(a), i64 b, i64 op, i64 nine) {
    i64 n = LEN(a);
    u8 *p = arena((u64)(n > 0 ? n : 1));
    for (i64 i = 0; i < n; i++) p[i] = logic(a[i], (u8)b, op, nine);
    *out = (Vec){p, 1, n, 0};
}
void x_not(Vec *out, VEC(a), i64 nine) {
    i64 n = LEN(a);
    u8 *p = arena((u64)(n > 0 ? n : 1));
    i64 i = 0;
    for (u64 v; nine && i + 8 <= n; i += 8) {
        memcpy(&v, a + i, 8);
        if (!eight_known(v)) break;
        v ^= EIGHT(1);
        memcpy(p + i, &v, 8);
    }
    for (; i < n; i++) p[i] = nine ? NOT[a[i]] : !a[i];
    *out = (Vec){p, 1, n, 0};
}
i64 x_reduce(VEC(a), i64 op, i64 nine) {
    i64 n = LEN(a), base = op == 2 ? 0 : op == 3 ? 1 : op == 5 ? 4 : op;
    u8 v = base == 0 ? (nine ? ONE : 1) : (nine ? ZERO : 0);
    for (i64 i = n - 1; i >= 0; i--) v = logic(a[i], v, base, nine);
    return op == 2 || op == 3 || op == 5 ? (nine ? NOT[v] : !v) : v;
}
/* Bounds of the operand kept, counted downwards: the form of numeric_std. */
void x_down(Vec *v, VEC(a)) { *v = (Vec){(u8 *)a, LEN(a) - 1, 0, 1}; }

/* The matching "?=" of two values (std_logic_1164): '-' matches all. */
static u8 match1(u8 a, u8 b) {
    if (a == 8 || b == 8) return ONE;
    if (a == 0 || b == 0) return 0;
    if (!(a & 2) || !(b & 2)) return X;
    return (a & 1) == (b & 1) ? ONE : ZERO;
}
i64 x_match1(i64 a, i64 b) { return match1((u8)a, (u8)b); }
i64 x_match(VEC(a), VEC(b)) {
    i64 n = LEN(a), m = LEN(b);
    if (n != m) v_stop(0, "the operands of '?=' have different lengths: %lld and %lld", (long long)n, (long long)m);
    u8 v = ONE;
    for (i64 i = 0; i < n; i++) v = AND[v][match1(a[i], b[i])];
    return v;
}
/* A choice of a matching case: whether it is matched. */
u32 v_choice(const u8 *a, const u8 *b, u64 n) {
    for (u64 i = 0; i < n; i++) if (match1(a[i], b[i]) != ONE) return 0;
    return 1;
}
/* std_match: '-' stands for anything, weak for strong, and a metavalue for nothing. */
i64 x_std_match(VEC(a), VEC(b)) {
    i64 n = LEN(a), m = LEN(b);
    if (n != m || !n) return 0;
    for (i64 i = 0; i < n; i++) {
        u8 x = a[i], y = b[i];
        if (x == 8 || y == 8) continue;
        if (!(x & 2) || !(y & 2) || (x & 1) != (y & 1)) return 0;
    }
    return 1;
}
i64 x_is_x(VEC(a)) {                    /* '0', '1', 'L' and 'H' have bit 1 set, the others have not */
    i64 n = LEN(a), i = 0;
    for (u64 v; i + 8 <= n; i += 8) {
        memcpy(&v, a + i, 8);
        if ((v & EIGHT(2)) != EIGHT(2)) return 1;
    }
    for (; i < n; i++) if (!(a[i] & 2)) return 1;
    return 0;
}
/* Values through a table of nine. */
static const u8 MAPS[5][9] = {
    {1, 1, 2, 3, 1, 1, 2, 3, 1} /* to_x01 */, {1, 1, 2, 3, 4, 1, 2, 3, 1} /* to_x01z */, {0, 1, 2, 3, 1, 1, 2, 3, 1} /* to_ux01 */,
    {0, 0, 0, 1, 0, 0, 0, 1, 0} /* to bit */, {2, 2, 2, 3, 2, 2, 2, 3, 2}};
i64 x_map1(i64 a, i64 table) { return MAPS[table][a]; }
void x_map(Vec *out, VEC(a), i64 table, i64 unknown) {
    i64 n = LEN(a);
    u8 *p = arena((u64)(n > 0 ? n : 1));
    for (i64 i = 0; i < n; i++) p[i] = table == 3 && !(a[i] & 2) ? (u8)unknown : MAPS[table][a[i]];
    *out = (Vec){p, n - 1, 0, 1};
}
void x_from_bits(Vec *out, VEC(a)) {
    i64 n = LEN(a);
    u8 *p = arena((u64)(n > 0 ? n : 1));
    for (i64 i = 0; i < n; i++) p[i] = a[i] + 2;
    *out = (Vec){p, n - 1, 0, 1};
}
/* Predefined shifts of bit and boolean arrays (9.2.4); how as in x_shift, and 5: left filled with the rightmost. */
void v_shift(Vec *out, VEC(a), i64 count, i64 how) {
    i64 n = LEN(a);
    if (count < 0) { static const i64 BACK[] = {1, 0, 5, 4, 3, 2}; how = BACK[how]; count = -count; }
    u8 *p = arena((u64)(n > 0 ? n : 1));
    *out = (Vec){p, al, ar, ad};
    if (!n) return;
    if (how == 3 || how == 4) { count %= n; if (how == 4) count = (n - count) % n; for (i64 i = 0; i < n; i++) p[i] = a[(i + count) % n]; return; }
    u8 none = how == 2 ? a[0] : how == 5 ? a[n - 1] : 0;
    for (i64 i = 0; i < n; i++) {
        i64 from = how == 0 || how == 5 ? i + count : i - count;
        p[i] = from >= 0 && from < n ? a[from] : none;
    }
}
/* Lexicographic order of discrete arrays (9.2.3). */
i64 v_compare(const u8 *a, i64 n, const u8 *b, i64 m, i64 size) {
    for (i64 i = 0; i < n && i < m; i++) {
        if (size == 1) { if (a[i] != b[i]) return a[i] < b[i] ? -1 : 1; }
        else if (size == 4) { int32_t x, y; memcpy(&x, a + 4 * i, 4); memcpy(&y, b + 4 * i, 4); if (x != y) return x < y ? -1 : 1; }
        else { i64 x, y; memcpy(&x, a + 8 * i, 8); memcpy(&y, b + 8 * i, 8); if (x != y) return x < y ? -1 : 1; }
    }
    return n < m ? -1 : n > m;
}
