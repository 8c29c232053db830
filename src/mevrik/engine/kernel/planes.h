/* From nine values, a byte each, to planes of bits. */
#ifndef MEVRIK_PLANES_H
#define MEVRIK_PLANES_H
#ifdef __SSE2__
#include <emmintrin.h>
#endif
#include "kernel.h"

/* The planes of a vector of elements, the last of which is bit 0: sixteen elements at once, or eight, for which a multiplication brings bit 0
 * of byte k of a word to bit 63 - k, for 63 - 9k + 8k. */
static inline u8 plane_of(u64 word, u32 p) { return (u8)((word >> p & 0x0101010101010101ULL) * 0x8040201008040201ULL >> 56); }
static inline u64 few(const u8 *in, u32 count) {          /* the first of up to seven bytes is the lowest */
    u32 a, b;
    u16 c, d;
    if (count == 1) return *in;
    if (count < 4) { memcpy(&c, in, 2); memcpy(&d, in + count - 2, 2); return c | (u64)d << 8 * (count - 2); }
    memcpy(&a, in, 4);
    memcpy(&b, in + count - 4, 4);
    return a | (u64)b << 8 * (count - 4);
}
static inline void put2(u8 *to, u16 v) { memcpy(to, &v, 2); }
static inline void planes_of(u8 *out, u64 stride, const u8 *in, u32 count, u32 planes) {
    u32 at = 0;
#ifdef __SSE2__
    for (; at + 16 <= count; at += 16) {
        u64 low, high;
        memcpy(&low, in + count - at - 8, 8);
        memcpy(&high, in + count - at - 16, 8);
        __m128i x = _mm_set_epi64x((long long)__builtin_bswap64(high), (long long)__builtin_bswap64(low));
        u8 *to = out + at / 8;
        put2(to, (u16)_mm_movemask_epi8(_mm_slli_epi64(x, 7)));
        for (u32 p = 1; p < planes; p++) put2(to + p * stride, (u16)_mm_movemask_epi8(_mm_sll_epi64(x, _mm_cvtsi32_si128(7 - (int)p))));
    }
#endif
    for (; at + 8 <= count; at += 8) {
        u64 word;
        memcpy(&word, in + count - at - 8, 8);
        for (u32 p = 0; p < planes; p++) out[p * stride + at / 8] = plane_of(word, p);
    }
    if (at == count) return;
    u64 word = few(in, count - at) << 8 * (8 - (count - at));
    for (u32 p = 0; p < planes; p++) out[p * stride + at / 8] = plane_of(word, p);
}

/* The number that up to 64 elements are, if all are '0' or '1'. */
static inline int number_of(const u8 *in, u32 count, u64 *value) {
    const u64 others = 0xfefefefefefefefeULL, want = 0x0202020202020202ULL;
    u64 bad = 0, found = 0, word;
    u32 at = 0;
    for (; at + 8 <= count; at += 8) {
        memcpy(&word, in + at, 8);
        bad |= (word & others) ^ want;
        found = found << 8 | plane_of(word, 0);
    }
    if (at < count) {
        u32 n = count - at;
        word = few(in + at, n);
        bad |= (word ^ want) & others & low_ones(8 * n);
        found = found << n | plane_of(word, 0) >> (8 - n);
    }
    *value = found;
    return !bad;
}

/* Whether all elements are '0' or '1'. */
static inline int all_known(const u8 *in, u32 count) {
    const u64 others = 0xfefefefefefefefeULL, want = 0x0202020202020202ULL;
    u64 bad = 0, word;
    u32 at = 0;
    for (; at + 8 <= count; at += 8) { memcpy(&word, in + at, 8); bad |= (word & others) ^ want; }
    if (at < count) { u32 bits = 8 * (count - at); bad |= (few(in + at, count - at) ^ want) & others & low_ones(bits); }
    return !bad;
}
#endif
