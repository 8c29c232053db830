/* Queues, dynamic and associative arrays (IEEE 1800-2017 7.5, 7.8 and 7.10). A variable holds the number of its list, 0 while it
 * is empty and was never written. Elements lie one behind the other, the value plane before the unknown plane; the keys of an
 * associative array lie beside them, in order. `planes` is 1 or 2; above it, from bit 2 on, stands what the
 * elements hold of lists: 0 nothing, 1 they are lists themselves, else 2 and the number of the kind of structure that they are. */
#include "kernel.h"

enum { KEY_NONE, KEY_SIGNED, KEY_UNSIGNED, KEY_TEXT };
enum { ORDER_UNSIGNED, ORDER_SIGNED, ORDER_TEXT, ORDER_REAL };

typedef struct {
    u32 width, bytes, planes, nested;
    i64 head, count, room;
    u8 *data;
    u64 *keys;              /* of an associative array; `head` is 0 then */
    i64 keys_room;
    u64 *missing;           /* what a key that is not there reads as: value and unknown words; null: nothing */
} List;
static List **lists; static u64 list_count, list_room;
static u8 *reached;
static u64 *unused; static u64 unused_count, unused_room;
enum { TEMPORARY = 256 };
static u64 temporary[TEMPORARY]; static u32 temporary_at;

/* Of each kind of structure, how many lists it holds and at which bytes; then, if it begins with something of its own, the number of
 * words of that (else 0), its value words and its unknown words, each as two halves, the lower one first. */
static const u32 *const *bags;
void k_bags(const u32 *const *rows) { bags = rows; }
static void own_in(u8 *at, u32 bag) {
    for (u32 k = 1; k <= bags[bag][0]; k++) {
        u64 h;
        memcpy(&h, at + bags[bag][k], 8);
        h = k_list_clone(h);
        memcpy(at + bags[bag][k], &h, 8);
    }
}
void k_own_lists(u8 *at, u32 stride, i64 count, u32 bag) { for (i64 i = 0; i < count; i++, at += stride) own_in(at, bag); }
/* An element that is copied gets lists of its own. */
static void own(u64 *v, u32 nested) {
    if (nested == 1) v[0] = k_list_clone(v[0]);
    else if (nested) own_in((u8 *)v, nested - 2);
}

static u32 step(const List *l) { return l->bytes * l->planes; }
static void form(List *l, u32 width, u32 planes) {
    l->width = width; l->planes = planes & 3; l->nested = planes >> 2;
    l->bytes = width <= 8 ? 1 : width <= 16 ? 2 : width <= 32 ? 4 : words_of(width) * 8;
}

static u64 make(u32 width, u32 planes) {
    owed += sizeof(List) + 24;
    if (unused_count) {
        u64 n = unused[--unused_count];
        if (!lists[n]) lists[n] = calloc(1, sizeof(List));
        form(lists[n], width, planes);
        return HANDLE(OF_LIST, n);
    }
    if (list_count + 1 >= list_room) {
        list_room = list_room ? list_room * 2 : 64;
        lists = realloc(lists, list_room * sizeof *lists);
    }
    if (!list_count) lists[list_count++] = 0;
    List *l = calloc(1, sizeof *l);
    form(l, width, planes);
    lists[list_count] = l;
    return HANDLE(OF_LIST, list_count++);
}

static List *of(u64 *slot, u32 width, u32 planes) {
    if (!*slot) *slot = make(width, planes);
    return lists[NUMBER(*slot)];
}
static List *known(u64 h) { return h >> 40 == OF_LIST ? lists[NUMBER(h)] : 0; }
static u8 *at(const List *l, i64 i) { return l->data + (l->head + i) * step(l); }

void k_list_free(u64 h);
static void drop_elements(List *l) {
    if (l->nested == 1) for (i64 i = 0; i < l->count; i++) { u64 inner; memcpy(&inner, at(l, i), 8); k_list_free(inner); }
    l->count = l->head = 0;
}
/* What a variable that ends leaves behind can be used again. */
void k_list_free(u64 h) {
    List *l = known(h);
    if (!l) return;
    drop_elements(l);
    free(l->data); free(l->keys); free(l->missing);
    memset(l, 0, sizeof *l);
    unused = grow(unused, &unused_room, unused_count + 1, sizeof *unused);
    unused[unused_count++] = NUMBER(h);
}
/* A list for the length of an expression. */
u64 k_list_temporary(u32 width, u32 planes) {
    u32 i = temporary_at++ % TEMPORARY;
    if (temporary[i]) k_list_free(temporary[i]);
    return temporary[i] = make(width, planes);
}

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
    owed += (u64)(room - l->room) * step(l);
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

/* What an element that is not there reads as: x, or 0 in two-state lists; a structure as what a variable of it begins with. */
static void nothing(u32 width, u32 planes, u64 *v, u64 *u) {
    u32 words = words_of(width);
    if (planes >> 2 > 1) {
        const u32 *row = bags[(planes >> 2) - 2], *own = row + 1 + row[0];
        if (*own == words) {
            memcpy(v, own + 1, 8 * words);
            memcpy(u, own + 1 + 2 * words, 8 * words);
            return;
        }
    }
    for (u32 k = 0; k < words; k++) {
        u64 ones = k + 1 == words && width % 64 ? low_ones(width % 64) : ~0ULL;
        v[k] = u[k] = (planes & 3) > 1 ? ones : 0;
    }
}
static void take(const List *l, i64 i, u64 *v, u64 *u) {
    const u8 *p = at(l, i);
    u32 words = words_of(l->width);
    memset(v, 0, 8 * words); memset(u, 0, 8 * words);
    memcpy(v, p, l->bytes);
    if (l->planes > 1) memcpy(u, p + l->bytes, l->bytes);
}

void k_list_form(u64 h, u32 *width, u32 *planes, u32 *nested) {
    const List *l = known(h);
    *width = l ? l->width : 1; *planes = l ? l->planes : 1; *nested = l ? l->nested : 0;
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
/* A bounded queue loses what stands beyond its bound (7.10.5). */
void k_list_bound(u64 h, u32 most) { List *l = known(h); if (l && l->count > most) l->count = most; }

void k_list_set(u64 *slot, u32 width, u32 planes, i64 i, const u64 *v, const u64 *u, u32 queue) {
    List *l = of(slot, width, planes);
    if (queue && i == l->count) { k_list_push(slot, width, planes, v, u); return; }
    if (i < 0 || i >= l->count) return;
    if (l->nested == 1) { u64 old; memcpy(&old, at(l, i), 8); if (old != *v) k_list_free(old); }
    put(l, i, v, u);
}
void k_list_get(u64 h, i64 i, u32 width, u32 planes, u64 *v, u64 *u) {
    List *l = known(h);
    if (l && i >= 0 && i < l->count) take(l, i, v, u);
    else nothing(width, planes, v, u);
}
/* The place of an element, for what changes a part of it; one that is not there gives a place that nobody reads. */
u8 *k_list_slot(u64 *slot, u32 width, u32 planes, i64 i) {
    static u64 lost[1024];
    List *l = of(slot, width, planes);
    if (i >= 0 && i < l->count) return at(l, i);
    memset(lost, 0, sizeof lost);
    return (u8 *)lost;
}
static void remove_at(List *l, i64 i) {
    if (l->nested == 1) { u64 inner; memcpy(&inner, at(l, i), 8); k_list_free(inner); }
    if (i == 0 && !l->keys) l->head++;
    else memmove(at(l, i), at(l, i + 1), (l->count - i - 1) * step(l));
    if (l->keys) memmove(l->keys + i, l->keys + i + 1, (l->count - i - 1) * sizeof *l->keys);
    l->count--;
    if (!l->count) l->head = 0;
}
void k_list_delete(u64 *slot, i64 i) {
    List *l = known(*slot);
    if (l && i >= 0 && i < l->count) remove_at(l, i);
}
void k_list_clear(u64 *slot) { List *l = known(*slot); if (l) drop_elements(l); }
void k_list_pop(u64 *slot, u32 front, u32 width, u32 planes, u64 *v, u64 *u) {
    List *l = known(*slot);
    if (!l || !l->count) { nothing(width, planes, v, u); return; }
    i64 i = front ? 0 : l->count - 1;
    take(l, i, v, u);
    u32 nested = l->nested;
    l->nested = 0;                                       /* the inner list goes to whoever asked for it */
    remove_at(l, i);
    l->nested = nested;
}
/* Elements first to last of another list behind those that are there. */
void k_list_append(u64 *slot, u32 width, u32 planes, u64 from, i64 first, i64 last) {
    List *other = known(from);
    if (!other) return;
    if (first < 0) first = 0;
    if (last >= other->count) last = other->count - 1;
    u64 v[words_of(width) + 1], u[words_of(width) + 1];
    for (i64 i = first; i <= last; i++) {
        take(known(from), i, v, u);
        own(v, planes >> 2);
        k_list_push(slot, width, planes, v, u);
    }
}
static void copy_keys(List *to, const List *from) {
    free(to->keys); free(to->missing);
    to->keys = 0; to->missing = 0; to->keys_room = 0;
    if (from->keys) {
        to->keys_room = from->count + 1;
        to->keys = malloc(to->keys_room * sizeof *to->keys);
        memcpy(to->keys, from->keys, from->count * sizeof *to->keys);
    }
    if (from->missing) {
        u32 n = 2 * words_of(from->width) * 8;
        to->missing = malloc(n);
        memcpy(to->missing, from->missing, n);
    }
}
void k_list_copy(u64 *slot, u32 width, u32 planes, u64 from) {
    if (*slot && *slot == from) return;
    k_list_clear(slot);
    k_list_append(slot, width, planes, from, 0, (1LL << 62));
    List *to = known(*slot), *other = known(from);
    if (other && (other->keys || other->missing)) copy_keys(of(slot, width, planes), other);
    else if (to && to->keys) { free(to->keys); to->keys = 0; to->keys_room = 0; }
}
u64 k_list_clone(u64 h) {
    List *l = known(h);
    u64 made = 0;
    if (l) k_list_copy(&made, l->width, l->planes | l->nested << 2, h);
    return made;
}
/* The variable takes over a list that nobody else has. */
void k_list_take(u64 *slot, u64 from) {
    if (*slot == from) return;
    k_list_free(*slot);
    *slot = from;
}
u64 k_list_slice(u64 h, u32 width, u32 planes, i64 first, i64 last) {
    u64 made = k_list_temporary(width, planes);
    k_list_append(&made, width, planes, h, first, last);
    return made;
}
/* new[count](from): elements that `from` has are kept (7.5.1). */
void k_list_new(u64 *slot, u32 width, u32 planes, i64 count, u64 from) {
    if (count > (1LL << 31)) k_stop(ENDED_ERROR, 0, "a dynamic array is made with more than two thousand million elements");
    u64 kept = k_list_clone(from);
    k_list_clear(slot);
    u64 v[words_of(width) + 1], u[words_of(width) + 1];
    for (i64 i = 0; i < count; i++) {
        k_list_get(kept, i, width, planes, v, u);
        own(v, planes >> 2);
        k_list_push(slot, width, planes, v, u);
    }
    k_list_free(kept);
}
/* The first `count` elements, the last of them first. */
u64 k_list_turned(u64 h, i64 count, u32 width, u32 planes) {
    u64 made = k_list_temporary(width, planes), v[words_of(width) + 1], u[words_of(width) + 1];
    for (i64 i = count; i-- > 0;) { k_list_get(h, i, width, planes, v, u); k_list_push(&made, width, planes, v, u); }
    return made;
}
/* Elements of a fixed array, `bytes` long a plane, as a list. */
u64 k_list_of(const u8 *from, u32 bytes, u32 planes_there, i64 count, u32 width, u32 planes) {
    u64 made = k_list_temporary(width, planes), v[words_of(width) + 1], u[words_of(width) + 1];
    for (i64 i = 0; i < count; i++, from += bytes * planes_there) {
        memset(v, 0, sizeof v); memset(u, 0, sizeof u);
        memcpy(v, from, bytes);
        if (planes_there > 1) memcpy(u, from + bytes, bytes);
        k_list_push(&made, width, planes, v, u);
    }
    return made;
}
/* The first `count` elements, one behind the other. */
const u8 *k_list_data(u64 h, i64 count, u32 width, u32 planes) {
    List *l = known(h);
    if (l && l->count >= count) return at(l, 0);
    u64 made = k_list_temporary(width, planes), v[words_of(width) + 1], u[words_of(width) + 1];
    for (i64 i = 0; i < count; i++) { k_list_get(h, i, width, planes, v, u); k_list_push(&made, width, planes, v, u); }
    return at(known(made), 0);
}

/* ---- order ---- */

static int compare_keys(u64 a, u64 b, u32 kind) {
    if (kind == KEY_TEXT) return (int)k_text_compare(a, b, 0);
    if (kind == KEY_SIGNED) return (i64)a < (i64)b ? -1 : (i64)a > (i64)b;
    return a < b ? -1 : a > b;
}
static int order(const List *l, i64 i, i64 j, u32 how) {
    u64 a[words_of(l->width)], b[words_of(l->width)], u[words_of(l->width)];
    take(l, i, a, u); take(l, j, b, u);
    if (how == ORDER_TEXT) return (int)k_text_compare(a[0], b[0], 0);
    if (how == ORDER_REAL) { double x, y; memcpy(&x, a, 8); memcpy(&y, b, 8); return x < y ? -1 : x > y; }
    u32 n = words_of(l->width);
    if (how == ORDER_SIGNED) {
        u32 top = (l->width - 1) % 64;
        u64 sa = a[n - 1] >> top & 1, sb = b[n - 1] >> top & 1;
        if (sa != sb) return sa ? -1 : 1;
    }
    for (u32 k = n; k-- > 0;) if (a[k] != b[k]) return a[k] < b[k] ? -1 : 1;
    return 0;
}
static int same(const List *l, i64 i, i64 j) { return !memcmp(at(l, i), at(l, j), step(l)); }

static void merge_sort(const List *keys, i64 *p, i64 *t, i64 n, int sign, u32 how) {
    if (n < 2) return;
    i64 m = n / 2;
    merge_sort(keys, p, t, m, sign, how);
    merge_sort(keys, p + m, t, n - m, sign, how);
    memcpy(t, p, m * sizeof *t);
    i64 a = 0, b = m, o = 0;
    while (a < m && b < n) p[o++] = sign * order(keys, p[b], t[a], how) < 0 ? p[b++] : t[a++];
    while (a < m) p[o++] = t[a++];
}
static void permute(List *l, const i64 *p) {
    u32 n = step(l);
    u8 *next = malloc((l->count + 1) * n);
    for (i64 i = 0; i < l->count; i++) memcpy(next + i * n, at(l, p[i]), n);
    memcpy(at(l, 0), next, l->count * n);
    free(next);
}
/* Sorts by the keys that go with the elements; equal ones keep their order. */
void k_list_order(u64 *slot, u64 by, u32 down, u32 how) {
    List *l = known(*slot), *keys = known(by);
    if (!l || !keys || keys->count != l->count) return;
    i64 *p = malloc((l->count + 1) * sizeof *p), *t = malloc((l->count + 1) * sizeof *t);
    for (i64 i = 0; i < l->count; i++) p[i] = i;
    merge_sort(keys, p, t, l->count, down ? -1 : 1, how);
    permute(l, p);
    free(p); free(t);
}
void k_list_reverse(u64 *slot) {
    List *l = known(*slot);
    if (!l) return;
    i64 *p = malloc((l->count + 1) * sizeof *p);
    for (i64 i = 0; i < l->count; i++) p[i] = l->count - 1 - i;
    permute(l, p);
    free(p);
}
void k_list_shuffle(u64 *slot) {
    List *l = known(*slot);
    if (!l) return;
    i64 *p = malloc((l->count + 1) * sizeof *p);
    for (i64 i = 0; i < l->count; i++) p[i] = i;
    for (i64 i = l->count - 1; i > 0; i--) { i64 j = k_urandom_range((u32)i, 0), x = p[i]; p[i] = p[j]; p[j] = x; }
    permute(l, p);
    free(p);
}
/* how: 0 min, 1 max, 2 unique, 3 unique_index; what the keys choose of `from`, or its places, goes to a list that lives briefly. */
u64 k_list_pick(u64 from, u64 by, u32 how, u32 kind, u32 width, u32 planes) {
    List *l = known(from), *keys = known(by);
    u64 made = k_list_temporary(width, planes), v[words_of(width) + 2], u[words_of(width) + 2];
    if (!l || !keys || !keys->count) return made;
    if (how < 2) {
        i64 best = 0;
        for (i64 i = 1; i < keys->count; i++) { int c = order(keys, i, best, kind); if (how ? c > 0 : c < 0) best = i; }
        take(l, best, v, u);
        k_list_push(&made, width, planes, v, u);
        return made;
    }
    for (i64 i = 0; i < keys->count; i++) {
        i64 j = 0;
        while (j < i && !same(keys, i, j)) j++;
        if (j < i) continue;
        if (how == 2) take(l, i, v, u);
        else { v[0] = l->keys ? l->keys[i] : (u64)i; u[0] = 0; }
        k_list_push(&made, width, planes, v, u);
    }
    return made;
}
u32 k_list_has(u64 h, const u64 *v, const u64 *u) {
    List *l = known(h);
    if (!l) return 0;
    u32 n = words_of(l->width);
    u64 a[n], b[n];
    for (i64 i = 0; i < l->count; i++) { take(l, i, a, b); if (!memcmp(a, v, 8 * n) && !memcmp(b, u, 8 * n)) return 1; }
    return 0;
}
u32 k_list_equal(u64 a, u64 b) {
    List *x = known(a), *y = known(b);
    i64 m = x ? x->count : 0, n = y ? y->count : 0;
    if (m != n) return 0;
    if (!m) return 1;
    if (x->keys && y->keys && memcmp(x->keys, y->keys, m * sizeof *x->keys)) return 0;
    if (x->nested == 1) {
        for (i64 i = 0; i < m; i++) { u64 p, q; memcpy(&p, at(x, i), 8); memcpy(&q, at(y, i), 8); if (!k_list_equal(p, q)) return 0; }
        return 1;
    }
    u64 v[words_of(x->width)], u[words_of(x->width)], w[words_of(x->width)], z[words_of(x->width)];
    for (i64 i = 0; i < m; i++) {
        take(x, i, v, u); take(y, i, w, z);
        if (memcmp(v, w, sizeof v) || memcmp(u, z, sizeof u)) return 0;
    }
    return 1;
}

/* ---- associative arrays: sorted keys (7.8) ---- */

/* The place of a key, or of the first greater one; *found tells which. */
static i64 find_key(const List *l, u64 key, u32 kind, int *found) {
    i64 low = 0, high = l->keys ? l->count : 0;
    *found = 0;
    while (low < high) {
        i64 middle = (low + high) / 2;
        int c = compare_keys(l->keys[middle], key, kind);
        if (!c) { *found = 1; return middle; }
        if (c < 0) low = middle + 1; else high = middle;
    }
    return low;
}
static i64 place_of(List *l, u64 key, u32 kind) {
    int found;
    i64 i = find_key(l, key, kind, &found);
    if (found) return i;
    room_for(l, l->count + 1);
    if (l->count + 1 > l->keys_room) l->keys = realloc(l->keys, (l->keys_room = l->keys_room * 2 + 8) * sizeof *l->keys);
    memmove(at(l, i + 1), at(l, i), (l->count - i) * step(l));
    memmove(l->keys + i + 1, l->keys + i, (l->count - i) * sizeof *l->keys);
    l->keys[i] = key;
    l->count++;
    u64 v[words_of(l->width) + 1], u[words_of(l->width) + 1];
    if (l->missing) { memcpy(v, l->missing, 8 * words_of(l->width)); memcpy(u, l->missing + words_of(l->width), 8 * words_of(l->width)); }
    else nothing(l->width, l->planes | l->nested << 2, v, u);
    if (l->nested == 1) v[0] = u[0] = 0;
    else if (l->nested) for (u32 k = 1; k <= bags[l->nested - 2][0]; k++) { memset((u8 *)v + bags[l->nested - 2][k], 0, 8); memset((u8 *)u + bags[l->nested - 2][k], 0, 8); }
    put(l, i, v, u);
    return i;
}
void k_map_set(u64 *slot, u32 width, u32 planes, u64 key, u32 kind, const u64 *v, const u64 *u) {
    List *l = of(slot, width, planes);
    i64 i = place_of(l, key, kind);
    if (l->nested == 1) { u64 old; memcpy(&old, at(l, i), 8); if (old != *v) k_list_free(old); }
    put(l, i, v, u);
}
u8 *k_map_slot(u64 *slot, u32 width, u32 planes, u64 key, u32 kind) {
    List *l = of(slot, width, planes);
    return at(l, place_of(l, key, kind));
}
void k_map_get(u64 h, u64 key, u32 kind, u32 width, u32 planes, u64 *v, u64 *u) {
    List *l = known(h);
    int found = 0;
    i64 i = l ? find_key(l, key, kind, &found) : 0;
    if (found) take(l, i, v, u);
    else if (l && l->missing) { memcpy(v, l->missing, 8 * words_of(width)); memcpy(u, l->missing + words_of(width), 8 * words_of(width)); }
    else { nothing(width, planes, v, u); if (planes >> 2 == 1) v[0] = u[0] = 0; }
}
void k_map_default(u64 *slot, u32 width, u32 planes, const u64 *v, const u64 *u) {
    List *l = of(slot, width, planes);
    u32 n = words_of(width);
    free(l->missing);
    l->missing = malloc(16 * n);
    memcpy(l->missing, v, 8 * n); memcpy(l->missing + n, u, 8 * n);
}
u32 k_map_exists(u64 h, u64 key, u32 kind) { List *l = known(h); int found = 0; if (l) find_key(l, key, kind, &found); return (u32)found; }
void k_map_delete(u64 *slot, u64 key, u32 kind) {
    List *l = known(*slot);
    int found = 0;
    i64 i = l ? find_key(l, key, kind, &found) : 0;
    if (found) remove_at(l, i);
}
/* how: 0 first, 1 last, 2 next, 3 prev; the key that is found goes to *out, 0 is returned if there is none (7.9.4 to 7.9.7). */
u32 k_map_move(u64 h, u32 how, u64 key, u32 kind, u64 *out) {
    List *l = known(h);
    *out = key;
    if (!l || !l->count || !l->keys) return 0;
    int found;
    i64 i = how == 0 ? 0 : how == 1 ? l->count - 1 : find_key(l, key, kind, &found);
    if (how == 2) i += found;
    if (how == 3) i--;
    if (i < 0 || i >= l->count) return 0;
    *out = l->keys[i];
    return 1;
}
u64 k_map_key(u64 h, i64 i) { List *l = known(h); return l && l->keys && i < l->count ? l->keys[i] : (u64)i; }
u64 k_list_handle(const u8 *at_element) { u64 h; memcpy(&h, at_element, 8); return h; }

/* ---- collection ---- */

void lists_ready(void) { reached = calloc(list_count / 8 + 1, 1); }
int list_reached(u64 n) {
    if (n >= list_count || !lists[n] || reached[n / 8] >> n % 8 & 1) return 0;
    reached[n / 8] |= (u8)(1 << n % 8);
    return 1;
}
void list_scan(u64 n, Scan *scan) {
    const List *l = lists[n];
    if (l->width >= 64 && l->count) scan(at(l, 0), (u64)l->count * step(l));
    if (l->keys) scan(l->keys, (u64)l->count * sizeof *l->keys);
    if (l->missing) scan(l->missing, 16 * (u64)words_of(l->width));
}
/* Those of expressions; and those that are ready for another use. */
void lists_in_use(void (*reach)(u64)) {
    for (u32 i = 0; i < TEMPORARY; i++) reach(temporary[i]);
    for (u64 i = 0; i < unused_count; i++) list_reached(unused[i]);
}
u64 lists_swept(void) {
    u64 live = 0;
    for (u64 n = 1; n < list_count; n++) {
        List *l = lists[n];
        if (!l) continue;
        if (reached[n / 8] >> n % 8 & 1) { live += sizeof *l + 24 + (u64)l->room * step(l) + (u64)l->keys_room * 8; continue; }
        free(l->data); free(l->keys); free(l->missing); free(l);
        lists[n] = 0;
        unused = grow(unused, &unused_room, unused_count + 1, sizeof *unused);
        unused[unused_count++] = n;
    }
    free(reached);
    return live;
}

/* ---- whole arrays of fixed size ---- */

/* Copies elements; a two-state one takes unknown bits as 0. */
void k_array_copy(u8 *to, u32 to_bytes, u32 to_planes, const u8 *from, u32 from_bytes, u32 from_planes, i64 count) {
    if (to_bytes == from_bytes && to_planes == from_planes) { memmove(to, from, (u64)count * to_bytes * to_planes); return; }
    u32 n = to_bytes < from_bytes ? to_bytes : from_bytes;
    for (i64 i = 0; i < count; i++, to += to_bytes * to_planes, from += from_bytes * from_planes) {
        memset(to, 0, to_bytes * to_planes);
        for (u32 k = 0; k < n; k++) {
            u8 unk = from_planes > 1 ? from[from_bytes + k] : 0;
            to[k] = to_planes > 1 ? from[k] : (u8)(from[k] & ~unk);
            if (to_planes > 1) to[to_bytes + k] = unk;
        }
    }
}
/* Elements of a signal from number `first` on, as assignments would write them. */
void k_array_write(u32 sig, u32 site, i64 first, i64 count, const u8 *from, u32 bytes, u32 planes) {
    const Sig *s = &K.sigs[sig];
    u32 words = words_of(s->width);
    u64 v[words + 1], u[words + 1];
    u8 *kept = malloc((u64)count * bytes * planes + 1);      /* the value may be a part of the same array */
    memcpy(kept, from, (u64)count * bytes * planes);
    for (i64 i = 0; i < count; i++) {
        const u8 *p = kept + (u64)i * bytes * planes;
        memset(v, 0, sizeof v); memset(u, 0, sizeof u);
        memcpy(v, p, bytes);
        if (planes > 1) memcpy(u, p + bytes, bytes);
        k_write(sig, site, (u32)(first + i), 0, s->width, v, u);
    }
    free(kept);
}
/* Fills `count` elements of the layout with one value. */
void k_array_fill(u8 *to, u32 bytes, u32 planes, const u64 *v, const u64 *u, i64 count) {
    for (i64 i = 0; i < count; i++, to += bytes * planes) { memcpy(to, v, bytes); if (planes > 1) memcpy(to + bytes, u, bytes); }
}
