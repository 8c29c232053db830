/* Queues and dynamic arrays (IEEE 1800-2017 7.5 and 7.10). A variable holds the number of its list, 0 while it is empty and was
 * never written. Elements lie one behind the other, the value plane before the unknown plane. */
#include "kernel.h"

typedef struct { u32 width, bytes, planes, text; i64 head, count, room; u8 *data; } List;
static List **lists; static u64 list_count, list_room;

static u32 step(const List *l) { return l->bytes * l->planes; }

static u64 make(u32 width, u32 planes) {
    if (list_count + 1 >= list_room) {
        list_room = list_room ? list_room * 2 : 64;
        lists = realloc(lists, list_room * sizeof *lists);
    }
    if (!list_count) lists[list_count++] = 0;
    List *l = calloc(1, sizeof *l);
    l->width = width; l->planes = planes;
    l->bytes = width <= 8 ? 1 : width <= 16 ? 2 : width <= 32 ? 4 : words_of(width) * 8;
    lists[list_count] = l;
    return list_count++;
}

static List *of(u64 *slot, u32 width, u32 planes) {
    if (!*slot) *slot = make(width, planes);
    return lists[*slot];
}
static List *known(u64 h) { return h && h < list_count ? lists[h] : 0; }
static u8 *at(const List *l, i64 i) { return l->data + (l->head + i) * step(l); }

static void room_for(List *l, i64 count) {
    if (l->head + count <= l->room) return;
    if (l->head > 0 && count <= l->room) {
        memmove(l->data, l->data + l->head * step(l), l->count * step(l));
        l->head = 0;
        return;
    }
    i64 room = l->room ? l->room : 4;
    while (room < l->head + count) room *= 2;
    if (room > (1LL << 31)) k_stop(ENDED_ERROR, 0, "a queue or dynamic array grows beyond two thousand million elements");
    l->data = realloc(l->data, room * step(l));
    if (!l->data) k_stop(ENDED_ERROR, 0, "out of memory for a queue or dynamic array");
    l->room = room;
}

static void put(List *l, i64 i, const u64 *v, const u64 *u) {
    u8 *p = at(l, i);
    u32 words = words_of(l->width);
    u64 clean[words];
    for (u32 k = 0; k < words; k++) clean[k] = l->planes > 1 ? v[k] : v[k] & ~u[k];
    memcpy(p, clean, l->bytes);
    if (l->planes > 1) memcpy(p + l->bytes, u, l->bytes);
}

/* What an element that is not there reads as: x, or 0 in two-state lists. */
static void nothing(u32 width, u32 planes, u64 *v, u64 *u) {
    u32 words = words_of(width);
    for (u32 k = 0; k < words; k++) {
        u64 ones = k + 1 == words && width % 64 ? low_ones(width % 64) : ~0ULL;
        v[k] = u[k] = planes > 1 ? ones : 0;
    }
}
static void take(const List *l, i64 i, u64 *v, u64 *u) {
    const u8 *p = at(l, i);
    u32 words = words_of(l->width);
    memset(v, 0, 8 * words); memset(u, 0, 8 * words);
    memcpy(v, p, l->bytes);
    if (l->planes > 1) memcpy(u, p + l->bytes, l->bytes);
}

u32 k_list_size(u64 h) { List *l = known(h); return l ? (u32)l->count : 0; }

void k_list_insert(u64 *slot, u32 width, u32 planes, i64 i, const u64 *v, const u64 *u) {
    List *l = of(slot, width, planes);
    if (i < 0 || i > l->count) return;                   /* no effect (7.10.2.2) */
    if (i == 0 && l->head > 0) { l->head--; l->count++; put(l, 0, v, u); return; }
    if (i == 0 && l->count >= 16) {                      /* make room in front, so that push_front is cheap too */
        i64 gap = l->count;
        room_for(l, l->count + gap);
        memmove(l->data + (l->head + gap) * step(l), at(l, 0), l->count * step(l));
        l->head += gap - 1; l->count++;
        put(l, 0, v, u);
        return;
    }
    room_for(l, l->count + 1);
    memmove(at(l, i + 1), at(l, i), (l->count - i) * step(l));
    l->count++;
    put(l, i, v, u);
}
void k_list_push(u64 *slot, u32 width, u32 planes, const u64 *v, const u64 *u) {
    List *l = of(slot, width, planes);
    room_for(l, l->count + 1);
    l->count++;
    put(l, l->count - 1, v, u);
}
void k_list_set(u64 *slot, u32 width, u32 planes, i64 i, const u64 *v, const u64 *u, u32 queue) {
    List *l = of(slot, width, planes);
    if (queue && i == l->count) { k_list_push(slot, width, planes, v, u); return; }
    if (i >= 0 && i < l->count) put(l, i, v, u);
}
void k_list_get(u64 h, i64 i, u32 width, u32 planes, u64 *v, u64 *u) {
    List *l = known(h);
    if (l && i >= 0 && i < l->count) take(l, i, v, u);
    else nothing(width, planes, v, u);
}
void k_list_delete(u64 *slot, i64 i) {
    List *l = known(*slot);
    if (!l || i < 0 || i >= l->count) return;
    if (i == 0) l->head++;
    else memmove(at(l, i), at(l, i + 1), (l->count - i - 1) * step(l));
    l->count--;
    if (!l->count) l->head = 0;
}
void k_list_clear(u64 *slot) { List *l = known(*slot); if (l) { l->count = 0; l->head = 0; } }
void k_list_pop(u64 *slot, u32 front, u32 width, u32 planes, u64 *v, u64 *u) {
    List *l = known(*slot);
    if (!l || !l->count) { nothing(width, planes, v, u); return; }
    take(l, front ? 0 : l->count - 1, v, u);
    k_list_delete(slot, front ? 0 : l->count - 1);
}
/* Elements first to last of another list behind those that are there. */
void k_list_append(u64 *slot, u32 width, u32 planes, u64 from, i64 first, i64 last) {
    List *other = known(from);
    if (!other) return;
    if (first < 0) first = 0;
    if (last >= other->count) last = other->count - 1;
    u64 v[words_of(width) + 1], u[words_of(width) + 1];
    for (i64 i = first; i <= last; i++) { take(other, i, v, u); k_list_push(slot, width, planes, v, u); }
}
void k_list_copy(u64 *slot, u32 width, u32 planes, u64 from) {
    if (*slot && *slot == from) return;
    k_list_clear(slot);
    k_list_append(slot, width, planes, from, 0, (1LL << 62));
}
u64 k_list_clone(u64 h) {
    List *l = known(h);
    u64 made = 0;
    if (l) k_list_copy(&made, l->width, l->planes, h);
    return made;
}
/* new[count](from): elements that `from` has are kept (7.5.1). */
void k_list_new(u64 *slot, u32 width, u32 planes, i64 count, u64 from) {
    u64 kept = k_list_clone(from);
    k_list_clear(slot);
    u64 v[words_of(width) + 1], u[words_of(width) + 1];
    for (i64 i = 0; i < count; i++) {
        k_list_get(kept, i, width, planes, v, u);
        k_list_push(slot, width, planes, v, u);
    }
}
/* Makes sure that a variable has a list of its own, so that it can be handed on by reference. */
void k_list_own(u64 *slot, u32 width, u32 planes) { of(slot, width, planes); }

static int order(const List *l, i64 i, i64 j, u32 is_signed, u32 text) {
    u64 a[words_of(l->width)], b[words_of(l->width)], u[words_of(l->width)];
    take(l, i, a, u); take(l, j, b, u);
    if (text) return (int)k_text_compare(a[0], b[0], 0);
    u32 n = words_of(l->width);
    if (is_signed) {
        u32 top = (l->width - 1) % 64;
        u64 sa = a[n - 1] >> top & 1, sb = b[n - 1] >> top & 1;
        if (sa != sb) return sa ? -1 : 1;
    }
    for (u32 k = n; k-- > 0;) if (a[k] != b[k]) return a[k] < b[k] ? -1 : 1;
    return 0;
}
static void swap(List *l, i64 i, i64 j) {
    u32 n = step(l);
    u8 t[n];
    memcpy(t, at(l, i), n); memcpy(at(l, i), at(l, j), n); memcpy(at(l, j), t, n);
}
static void sift(List *l, i64 i, i64 n, int sign, u32 is_signed, u32 text) {
    for (;;) {
        i64 c = 2 * i + 1;
        if (c >= n) return;
        if (c + 1 < n && sign * order(l, c + 1, c, is_signed, text) > 0) c++;
        if (sign * order(l, c, i, is_signed, text) <= 0) return;
        swap(l, i, c);
        i = c;
    }
}
/* how: 0 reverse, 1 sort, 2 rsort */
void k_list_order(u64 *slot, u32 how, u32 is_signed, u32 text) {
    List *l = known(*slot);
    if (!l) return;
    if (!how) { for (i64 i = 0, j = l->count - 1; i < j; i++, j--) swap(l, i, j); return; }
    int sign = how == 1 ? 1 : -1;
    for (i64 i = l->count / 2; i-- > 0;) sift(l, i, l->count, sign, is_signed, text);
    for (i64 n = l->count - 1; n > 0; n--) { swap(l, 0, n); sift(l, 0, n, sign, is_signed, text); }
}
/* how: 0 min, 1 max: the element; empty lists give nothing. */
void k_list_extreme(u64 h, u32 how, u32 is_signed, u32 text, u32 width, u32 planes, u64 *v, u64 *u) {
    List *l = known(h);
    if (!l || !l->count) { nothing(width, planes, v, u); return; }
    i64 best = 0;
    for (i64 i = 1; i < l->count; i++) { int c = order(l, i, best, is_signed, text); if (how ? c > 0 : c < 0) best = i; }
    take(l, best, v, u);
}
/* The element or its index, or -1, that equals a value. */
u32 k_list_has(u64 h, const u64 *v, const u64 *u) {
    List *l = known(h);
    if (!l) return 0;
    u32 n = words_of(l->width);
    u64 a[n], b[n];
    for (i64 i = 0; i < l->count; i++) { take(l, i, a, b); if (!memcmp(a, v, 8 * n) && !memcmp(b, u, 8 * n)) return 1; }
    return 0;
}
/* how: 0 sum, 1 product, 2 and, 3 or, 4 xor, at the width of the elements (7.12.3); an unknown bit makes a sum or product x. */
void k_list_reduce(u64 h, u32 how, u32 width, u32 planes, u64 *v, u64 *u) {
    List *l = known(h);
    u32 n = words_of(width), bad = 0;
    u64 a[n], b[n], t[n];
    memset(v, 0, 8 * n); memset(u, 0, 8 * n);
    if (how == 1) v[0] = 1;
    for (i64 i = 0; l && i < l->count; i++) {
        take(l, i, a, b);
        for (u32 k = 0; k < n; k++) bad |= b[k] != 0;
        if (how == 0) { u64 carry = 0; for (u32 k = 0; k < n; k++) { unsigned __int128 s = (unsigned __int128)v[k] + a[k] + carry; v[k] = (u64)s; carry = (u64)(s >> 64); } }
        else if (how == 1) { k_multiply(t, v, a, n); memcpy(v, t, 8 * n); }
        else for (u32 k = 0; k < n; k++) v[k] = !i ? a[k] : how == 2 ? v[k] & a[k] : how == 3 ? v[k] | a[k] : v[k] ^ a[k];
    }
    if (width % 64) v[n - 1] &= low_ones(width % 64);
    if (bad) nothing(width, planes, v, u);
}
u32 k_list_equal(u64 a, u64 b) {
    List *x = known(a), *y = known(b);
    i64 m = x ? x->count : 0, n = y ? y->count : 0;
    if (m != n) return 0;
    return !m || !memcmp(at(x, 0), at(y, 0), m * step(x));
}
