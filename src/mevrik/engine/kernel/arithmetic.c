/* Arithmetic of wide vectors and of reals (IEEE 1364-2005 5.1.5, 4.8.2). */
#include <math.h>
#include "kernel.h"

static int compare(const u64 *a, const u64 *b, u32 n) {
    for (u32 i = n; i-- > 0;) if (a[i] != b[i]) return a[i] < b[i] ? -1 : 1;
    return 0;
}
static void negate(u64 *a, u32 n) { u64 c = 1; for (u32 i = 0; i < n; i++) { a[i] = ~a[i] + c; c = c && !a[i]; } }

/* Quotient and remainder of magnitudes, bit by bit; n words. */
static void divide(const u64 *a, const u64 *b, u64 *q, u64 *r, u32 n) {
    memset(q, 0, n * 8); memset(r, 0, n * 8);
    for (i64 i = (i64)n * 64 - 1; i >= 0; i--) {
        for (u32 w = n; w-- > 0;) r[w] = r[w] << 1 | (w ? r[w - 1] >> 63 : a[i / 64] >> i % 64 & 1);
        if (compare(r, b, n) >= 0) {
            u64 borrow = 0;
            for (u32 w = 0; w < n; w++) { u64 x = r[w] - b[w] - borrow; borrow = r[w] < b[w] || (r[w] == b[w] && borrow); r[w] = x; }
            q[i / 64] |= 1ULL << i % 64;
        }
    }
}
void k_divide(u64 *out_words, const u64 *a, const u64 *b, u32 n, u32 is_signed, u32 want_rest) {
    u64 x[n], y[n], q[n], r[n];
    memcpy(x, a, n * 8); memcpy(y, b, n * 8);
    int na = is_signed && (i64)x[n - 1] < 0, nb = is_signed && (i64)y[n - 1] < 0;
    if (na) negate(x, n);
    if (nb) negate(y, n);
    divide(x, y, q, r, n);
    if (want_rest) { if (na) negate(r, n); memcpy(out_words, r, n * 8); }
    else { if (na != nb) negate(q, n); memcpy(out_words, q, n * 8); }
}
void k_multiply(u64 *out_words, const u64 *a, const u64 *b, u32 n) {
    memset(out_words, 0, n * 8);
    for (u32 i = 0; i < n; i++) {
        u64 carry = 0;
        for (u32 j = 0; i + j < n; j++) {
            unsigned __int128 x = (unsigned __int128)a[i] * b[j] + out_words[i + j] + carry;
            out_words[i + j] = (u64)x;
            carry = (u64)(x >> 64);
        }
    }
}
/* base ** exponent modulo 2^(64 n); returns 1 when the result is x (0 to a negative power). Table 5-6. */
u32 k_power(u64 *out_words, const u64 *a, u32 n, const u64 *e, u32 en, u32 a_signed, u32 e_signed) {
    u64 base[n], t[n], r[n];
    memcpy(base, a, n * 8);
    int e_negative = e_signed && (i64)e[en - 1] < 0;
    memset(r, 0, sizeof r);
    if (e_negative) {
        int zero = 1, one = base[0] == 1, minus = a_signed;
        for (u32 i = 0; i < n; i++) { zero &= !base[i]; one &= i ? !base[i] : 1; minus &= base[i] == ~0ULL; }
        if (zero) return 1;
        if (one) r[0] = 1;
        else if (minus) { r[0] = 1; if (e[0] & 1) negate(r, n); }
        memcpy(out_words, r, n * 8);
        return 0;
    }
    r[0] = 1;
    for (i64 i = (i64)en * 64 - 1; i >= 0; i--) {
        k_multiply(t, r, r, n); memcpy(r, t, n * 8);
        if (e[i / 64] >> i % 64 & 1) { k_multiply(t, r, base, n); memcpy(r, t, n * 8); }
    }
    memcpy(out_words, r, n * 8);
    return 0;
}
double k_real_power(double a, double b) { return pow(a, b); }
/* A vector as a real; unknown bits count as 0. */
double k_to_real(const u64 *val, const u64 *unk, u32 width, u32 is_signed) {
    u32 n = words_of(width);
    u64 w[n];
    for (u32 i = 0; i < n; i++) w[i] = val[i] & ~unk[i];
    int negative = is_signed && w[n - 1] >> ((width - 1) % 64) & 1;
    if (negative) {
        if (width % 64) w[n - 1] |= ~low_ones(width % 64);
        negate(w, n);
        if (width % 64) w[n - 1] &= low_ones(width % 64);
    }
    double r = 0;
    for (u32 i = n; i-- > 0;) r = r * 18446744073709551616.0 + (double)w[i];
    return negative ? -r : r;
}
void k_from_real(u64 *out_words, double x, u32 n) {
    memset(out_words, 0, n * 8);
    if (isnan(x) || isinf(x)) return;
    double m = floor(fabs(x) + 0.5);
    int e;
    frexp(m, &e);
    if (e <= 63) out_words[0] = (u64)m;
    else {
        u64 mantissa = (u64)ldexp(m, 53 - e);
        u32 shift = (u32)(e - 53);
        for (u32 i = 0; i < 53; i++) if ((mantissa >> i & 1) && (i + shift) / 64 < n) out_words[(i + shift) / 64] |= 1ULL << (i + shift) % 64;
    }
    if (x < 0) negate(out_words, n);
}
double k_math(u32 which, double a, double b) {
    switch (which) {
    case 0: return log(a); case 1: return log10(a); case 2: return exp(a); case 3: return sqrt(a); case 4: return pow(a, b);
    case 5: return floor(a); case 6: return ceil(a); case 7: return sin(a); case 8: return cos(a); case 9: return tan(a);
    case 10: return asin(a); case 11: return acos(a); case 12: return atan(a); case 13: return atan2(a, b); case 14: return hypot(a, b);
    case 15: return sinh(a); case 16: return cosh(a); case 17: return tanh(a); case 18: return asinh(a); case 19: return acosh(a);
    default: return atanh(a);
    }
}
