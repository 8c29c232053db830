/* Streams whose length is known only when they are made (IEEE 1800-2017 11.4.14): lists of single bits, the leftmost first, that live for
 * the length of an expression. */
#include "kernel.h"

u64 k_list_temporary(u32 width, u32 planes);
void k_list_push(u64 *slot, u32 width, u32 planes, const u64 *v, const u64 *u);
void k_list_form(u64 h, u32 *width, u32 *planes, u32 *nested);

static u64 fresh(void) { return k_list_temporary(1, 2); }
static void put_bit(u64 *h, u64 v, u64 u) { k_list_push(h, 1, 2, &v, &u); }
static void get_bit(u64 h, i64 i, u64 *v, u64 *u) { k_list_get(h, i, 1, 2, v, u); }

u64 k_stream(void) { return fresh(); }

/* The bits of a value behind those that are there. */
void k_stream_value(u64 h, u32 width, const u64 *v, const u64 *u) {
    for (u32 i = width; i-- > 0;) put_bit(&h, v[i / 64] >> i % 64 & 1, u[i / 64] >> i % 64 & 1);
}
/* All elements of a list, the first leftmost; of lists in it theirs. */
void k_stream_list(u64 h, u64 list) {
    u32 width, planes, nested;
    k_list_form(list, &width, &planes, &nested);
    u64 v[words_of(width) + 1], u[words_of(width) + 1];
    for (u32 i = 0, n = k_list_size(list); i < n; i++) {
        k_list_get(list, i, width, planes, v, u);
        if (nested == 1) k_stream_list(h, v[0]);
        else k_stream_value(h, width, v, u);
    }
}
static void copy_bits(u64 *to, u64 from, i64 start, i64 end) {
    for (u64 v, u; start < end; start++) { get_bit(from, start, &v, &u); put_bit(to, v, u); }
}
/* Its slices in reversed order, counted from the right end; `back`: of one that was turned so, what it was. */
u64 k_stream_turn(u64 h, u32 slice, u32 back) {
    u64 made = fresh();
    i64 n = k_list_size(h), rest = n % slice;
    if (back) {
        if (rest) copy_bits(&made, h, n - rest, n);
        for (i64 at = n - rest; at > 0; at -= slice) copy_bits(&made, h, at - slice, at);
    } else for (i64 end = n; end > 0; end -= slice) copy_bits(&made, h, end > slice ? end - slice : 0, end);
    return made;
}
/* Its first bits as a value of `width` bits; what it lacks is 0. A stream for a target that is shorter is an error if `whole`. */
void k_stream_into(u64 h, u32 site, i64 from, u32 width, u32 whole, u64 *v, u64 *u) {
    i64 n = k_list_size(h);
    if (whole && n > width) {
        char text[120];
        snprintf(text, sizeof text, "the stream has %lld bits, more than the %u of its target (11.4.14.2)", (long long)n, width);
        k_stop(ENDED_ERROR, site, text);
    }
    memset(v, 0, 8 * words_of(width)); memset(u, 0, 8 * words_of(width));
    for (u32 i = 0; i < width && from + i < n; i++) {
        u64 a, b;
        u32 to = width - 1 - i;
        get_bit(h, from + i, &a, &b);
        v[to / 64] |= a << to % 64; u[to / 64] |= b << to % 64;
    }
}
/* Its bits from `from` on, but for the last `keep`, as a list of elements; the last one is filled up with 0. */
u64 k_stream_elements(u64 h, i64 from, i64 keep, u32 width, u32 planes) {
    u64 made = k_list_temporary(width, planes), v[words_of(width) + 1], u[words_of(width) + 1];
    u64 part = fresh();
    copy_bits(&part, h, from, k_list_size(h) - keep);
    for (i64 at = 0, n = k_list_size(part); at < n; at += width) {
        k_stream_into(part, 0, at, width, 0, v, u);
        k_list_push(&made, width, planes, v, u);
    }
    return made;
}
u32 k_stream_size(u64 h) { return k_list_size(h); }
