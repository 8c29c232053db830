/* Recording changes: a block of changes a signal, handed over when full; packed into columns for waves/writer.py to store.
 *
 * A row is time, delta and site, then planes in whole words: a change writes one stretch of memory. While all values of a block are known
 * (0 and 1) its rows hold the first plane only. Blocks grow from small to BLOCK rows or BYTES bytes, so that many quiet signals cost little,
 * and no more than BACKLOG bytes wait to be stored.
 */
#include <pthread.h>
#include "kernel.h"
#include "planes.h"

enum { BLOCK = 4096, FIRST = 16, QUEUE = 4096, BYTES = 1 << 18, BACKLOG = 1 << 26, HEAD = 16 };
typedef struct { u32 sig, count, room, row; u8 *rows; const u8 *from; u32 unit, length, stored, planes, plain; } Block;
/* length: of the planes that are stored; plain: one word, of whose two planes the first is stored */

const u32 block_size = sizeof(Block);           /* engine/abi.py mirrors it */
static Block *blocks;
static Block queue_[QUEUE];
static u64 queue_head, queue_tail, queue_bytes;
static pthread_mutex_t lock = PTHREAD_MUTEX_INITIALIZER;
static pthread_cond_t more = PTHREAD_COND_INITIALIZER, less = PTHREAD_COND_INITIALIZER;
static u32 closed;

void record_open(void) { blocks = calloc(K.sig_count + 1, sizeof *blocks); closed = 0; queue_head = queue_tail = queue_bytes = 0; }

static void hand_over(Block *b) {
    u64 bytes = (u64)b->room * b->row;
    pthread_mutex_lock(&lock);
    while (queue_tail - queue_head == QUEUE || (queue_bytes && queue_bytes + bytes > BACKLOG)) pthread_cond_wait(&less, &lock);
    queue_[queue_tail++ % QUEUE] = *b;
    queue_bytes += bytes;
    pthread_cond_signal(&more);
    pthread_mutex_unlock(&lock);
    memset(b, 0, sizeof *b);
}

static inline u32 row_of(u32 bytes, u32 planes) { return HEAD + (bytes * planes + 7) / 8 * 8; }

static __attribute__((noinline)) void make_room(Block *b, u32 sig) {
    const Sig *s = &K.sigs[sig];
    u32 most = BYTES / row_of(s->bytes, s->planes);
    if (most > BLOCK) most = BLOCK;
    if (most < FIRST) most = FIRST;
    if (b->room >= most) hand_over(b);
    if (!b->room) {
        b->sig = sig;
        b->row = row_of(s->bytes, 1);
        b->from = K.mem + s->offset;
        b->unit = s->bytes < 8 ? s->bytes : 8;
        b->length = s->bytes;
        b->stored = 1;
        b->planes = s->planes;
        b->plain = b->length == b->unit && s->planes == 2;
    }
    b->room = !b->room ? FIRST : b->room * 4 < most ? b->room * 4 : most;
    b->rows = realloc(b->rows, (size_t)b->room * b->row);
}

/* A value that isn't known comes into a block: from now on all planes are stored. */
static __attribute__((noinline)) void widen(Block *b) {
    const Sig *s = &K.sigs[b->sig];
    u32 bytes = s->bytes, was = b->row, row = row_of(bytes, b->planes);
    b->rows = realloc(b->rows, (size_t)b->room * row);
    for (u32 i = b->count; i--;) {
        u8 *to = b->rows + (size_t)i * row;
        memmove(to, b->rows + (size_t)i * was, was);
        memset(to + HEAD + bytes, 0, row - HEAD - bytes);
        if (b->planes < 4) continue;                    /* of nine values, the second plane tells 0 and 1 from the others */
        u8 *second = to + HEAD + bytes;
        memset(second, 255, s->width / 8);
        if (s->width % 8) second[s->width / 8] = (u8)((1 << s->width % 8) - 1);
    }
    b->row = row;
    b->plain = 0;
    b->stored = b->planes;
    b->length = bytes * b->planes;
}

static inline u8 *new_row(Block *b, u32 site) {
    u8 *to = b->rows + (size_t)b->count++ * b->row;
    u64 word = (u32)K.delta | (u64)site << 32;
    __builtin_prefetch(to + 128, 1);        /* of this stretch the processor has lost track since the last change */
    memcpy(to, &K.now, 8);
    memcpy(to + 8, &word, 8);
    return to + HEAD;
}

/* A change of a signal of nine values, each of `count` bytes, the last of which is bit 0. */
void v_record_nine(u32 sig, u32 site, const u8 *in, u32 count) {
    Block *b = &blocks[sig];
    if (UNLIKELY(b->count == b->room)) make_room(b, sig);
    if (LIKELY(b->stored == 1 && count <= 64)) {
        u64 value;
        if (LIKELY(number_of(in, count, &value))) { memcpy(new_row(b, site), &value, 8); return; }
        widen(b);
    } else if (UNLIKELY(b->stored == 1 && !all_known(in, count))) widen(b);
    u8 *to = new_row(b, site);
    for (u8 *at = to, *end = to - HEAD + b->row; at < end; at += 8) memset(at, 0, 8);
    if (LIKELY(b->stored == 1)) planes_of(to, 0, in, count, 1);
    else planes_of(to, b->length / 4, in, count, 4);
}

/* Read and written in the size in which it has just been written. */
#define EACH(act) switch (b->unit) { case 1: act(u8) break; case 2: act(u16) break; case 4: act(u32) break; default: act(u64) }
#define TEST(type) { type x; for (u32 k = bytes; k < 2 * bytes; k += sizeof x) { memcpy(&x, from + k, sizeof x); some |= x; } }
#define COPY(type) { type x; for (u32 k = 0; k < b->length; k += sizeof x) { memcpy(&x, from + k, sizeof x); memcpy(to + k, &x, sizeof x); } }
#define LOAD(type) { type v, u; memcpy(&v, from, sizeof v); memcpy(&u, from + sizeof u, sizeof u); value = v; some = u; }
void record_change(u32 sig, u32 site) {
    Block *b = &blocks[sig];
    if (UNLIKELY(b->count == b->room)) make_room(b, sig);
    const u8 *from = b->from;
    if (LIKELY(b->plain)) {
        u64 value, some;
        EACH(LOAD)
        if (LIKELY(!some)) { memcpy(new_row(b, site), &value, 8); return; }
    }
    if (b->stored < b->planes) {
        u32 bytes = b->length;
        u64 some = 0;
        EACH(TEST)
        if (UNLIKELY(some)) widen(b);
    }
    u8 *to = new_row(b, site);
    EACH(COPY)
}
#undef EACH
#undef TEST
#undef COPY

void record_flush(void) {
    if (!blocks) return;
    for (u32 i = 0; i < K.sig_count; i++) if (blocks[i].count) hand_over(&blocks[i]);
    Block mark = {~0u, 1, 1, HEAD, malloc(HEAD), 0, 0, 0, 0, 0, 0};       /* everything before this time has been handed over */
    memcpy(mark.rows, &K.now, 8);
    hand_over(&mark);
}

void record_close(void) {
    pthread_mutex_lock(&lock);
    closed = 1;
    pthread_cond_broadcast(&more);
    pthread_mutex_unlock(&lock);
}

/* The next full block, waiting for one; 0 when the recording is over. The caller gives it back with record_release. */
u32 record_next(Block *into) {
    pthread_mutex_lock(&lock);
    while (queue_head == queue_tail && !closed) pthread_cond_wait(&more, &lock);
    u32 have = queue_head != queue_tail;
    if (have) {
        *into = queue_[queue_head++ % QUEUE];
        queue_bytes -= (u64)into->room * into->row;
        pthread_cond_signal(&less);
    }
    pthread_mutex_unlock(&lock);
    return have;
}
void record_release(Block *b) { free(b->rows); }

/* ---- packing ---- */

/* A column of numbers in as few bytes each as the largest takes; 0: all are the same, which stands there once in eight. Gives that width. */
static u8 pack_numbers(u8 **out, const u64 *x, u32 n) {
    u64 any = 0, differ = 0;
    for (u32 i = 0; i < n; i++) { any |= x[i]; differ |= x[i] ^ x[0]; }
    u8 width = !differ ? 0 : any < 1 << 8 ? 1 : any < 1 << 16 ? 2 : any >> 32 ? 8 : 4, *to = *out;
    switch (width) {
        case 0: memcpy(to, x, 8); to += 8; break;
        case 1: for (u32 i = 0; i < n; i++) to[i] = (u8)x[i]; to += n; break;
        case 2: for (u32 i = 0; i < n; i++) { u16 v = (u16)x[i]; memcpy(to + 2 * i, &v, 2); } to += 2 * n; break;
        case 4: for (u32 i = 0; i < n; i++) { u32 v = (u32)x[i]; memcpy(to + 4 * i, &v, 4); } to += 4 * n; break;
        default: memcpy(to, x, 8 * n); to += 8 * n;
    }
    *out = to;
    return width;
}

enum { ALL_ZERO, ALL_ONE, STORED };

/* One plane of all values: in words of a size that is known where it is compiled, else byte by byte. */
#define PACK_WORDS(type) { \
    type any = 0, lacking = 0, full = width >= 8 * sizeof(type) ? (type)~(type)0 : (type)(((u64)1 << width) - 1), v; \
    for (u32 i = 0; i < n; i++, in += row) { memcpy(&v, in, sizeof v); any |= v; lacking |= v ^ full; memcpy(to, &v, sizeof v); to += sizeof v; } \
    some = any != 0; all = !lacking; break; }
static u8 pack_plane(u8 **out, const u8 *in, u32 row, u32 bytes, u32 n, u32 width) {
    u8 *to = *out;
    int some = 0, all = 1;
    switch (bytes) {
        case 1: PACK_WORDS(u8)
        case 2: PACK_WORDS(u16)
        case 4: PACK_WORDS(u32)
        case 8: PACK_WORDS(u64)
        default: {
            u8 last = width % 8 ? (u8)((1 << width % 8) - 1) : 255;
            for (u32 i = 0; i < n; i++, in += row)
                for (u32 k = 0; k < bytes; k++) {
                    some |= in[k];
                    all &= in[k] == (k == bytes - 1 ? last : 255);
                    *to++ = in[k];
                }
        }
    }
    if (!some) return ALL_ZERO;
    if (all) return ALL_ONE;
    *out = to;
    return STORED;
}

/* Writes the columns of a block, laid out as waves/schema.py says, and gives their size in bytes. `facts`: first and last time, and whether
 * any value is unknown. */
u64 record_pack(const Block *b, u32 bytes, u32 planes, u32 width, u8 *out, u64 *facts) {
    u64 column[BLOCK];
    u32 n = b->count;
    u8 *head = out, code[4] = {0, 0, 0, 0};
    memset(head, 0, 8);
    out += 8;
    u64 before = 0;
    for (u32 i = 0; i < n; i++) { u64 time; memcpy(&time, b->rows + (size_t)i * b->row, 8); column[i] = time - before; before = time; }
    facts[0] = column[0];
    facts[1] = before;
    column[0] = n > 1 ? column[1] : 0;
    head[0] = pack_numbers(&out, column, n);
    for (u32 i = 0; i < n; i++) { u32 delta; memcpy(&delta, b->rows + (size_t)i * b->row + 8, 4); column[i] = delta; }
    head[1] = pack_numbers(&out, column, n);
    for (u32 i = 0; i < n; i++) { u32 site; memcpy(&site, b->rows + (size_t)i * b->row + 12, 4); column[i] = site; }
    head[2] = pack_numbers(&out, column, n);
    if (b->stored < planes) code[1] = planes == 4 ? ALL_ONE : ALL_ZERO;
    for (u32 p = 0; p < b->stored; p++) code[p] = pack_plane(&out, b->rows + HEAD + p * bytes, b->row, bytes, n, width);
    memcpy(head + 4, code, 4);
    facts[2] = planes == 4 ? code[1] != ALL_ONE : planes > 1 && code[1] != ALL_ZERO;
    return (u64)(out - head);
}
