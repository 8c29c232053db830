/* Recording changes: a block of changes a signal, handed over when full. waves/record.py stores them.
 *
 * An entry is time, delta, site, then the planes. Blocks grow from small to BLOCK entries, so that many quiet signals cost little.
 */
#include <pthread.h>
#include "kernel.h"

enum { BLOCK = 4096, FIRST = 16, QUEUE = 4096 };
typedef struct { u32 sig, count, room, value_bytes; u64 *times; u32 *deltas, *sites; u8 *values; } Block;

static Block *blocks;
static Block queue_[QUEUE];
static u64 queue_head, queue_tail;
static pthread_mutex_t lock = PTHREAD_MUTEX_INITIALIZER;
static pthread_cond_t more = PTHREAD_COND_INITIALIZER, less = PTHREAD_COND_INITIALIZER;
static u32 closed;

void record_open(void) { blocks = calloc(K.sig_count + 1, sizeof *blocks); closed = 0; queue_head = queue_tail = 0; }

static void hand_over(Block *b) {
    pthread_mutex_lock(&lock);
    while (queue_tail - queue_head == QUEUE) pthread_cond_wait(&less, &lock);
    queue_[queue_tail++ % QUEUE] = *b;
    pthread_cond_signal(&more);
    pthread_mutex_unlock(&lock);
    memset(b, 0, sizeof *b);
}

void record_change(u32 sig, u32 site) {
    Block *b = &blocks[sig];
    const Sig *s = &K.sigs[sig];
    u32 n = s->bytes * s->planes;
    if (s->elements > 1) return;
    if (b->count == b->room) {
        if (b->room == BLOCK) hand_over(b);
        b->sig = sig;
        b->value_bytes = n;
        b->room = b->room ? b->room * 4 < BLOCK ? b->room * 4 : BLOCK : FIRST;
        b->times = realloc(b->times, b->room * sizeof *b->times);
        b->deltas = realloc(b->deltas, b->room * sizeof *b->deltas);
        b->sites = realloc(b->sites, b->room * sizeof *b->sites);
        b->values = realloc(b->values, (size_t)b->room * n);
    }
    u32 i = b->count++;
    b->times[i] = K.now;
    b->deltas[i] = (u32)K.delta;
    b->sites[i] = site;
    memcpy(b->values + (size_t)i * n, K.mem + s->offset, n);
}

void record_flush(void) {
    if (!blocks) return;
    for (u32 i = 0; i < K.sig_count; i++) if (blocks[i].count) hand_over(&blocks[i]);
    Block mark = {~0u, 0, 0, 0, 0, 0, 0, 0};       /* everything before this time has been handed over */
    mark.times = malloc(8);
    mark.times[0] = K.now;
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
    if (have) { *into = queue_[queue_head++ % QUEUE]; pthread_cond_signal(&less); }
    pthread_mutex_unlock(&lock);
    return have;
}
void record_release(Block *b) { free(b->times); free(b->deltas); free(b->sites); free(b->values); }
