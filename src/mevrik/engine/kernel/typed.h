/* The typed half of the run-time: signals with drivers and projected waveforms (IEEE 1076-2008 clauses 10.5 and 14.7), processes
 * with stacks of their own, values as bytes. The layouts of VState, VSig and VDriver are mirrored in engine/typed/places.py. */
#ifndef MEVRIK_TYPED_H
#define MEVRIK_TYPED_H
#include "kernel.h"

typedef struct {            /* 64 bytes, at the start of the typed part of the memory block */
    u64 cycle;              /* simulation cycles so far */
    u64 now;
    u8 *top, *end;          /* of the arena that the running process takes temporary storage from */
    u64 depth;
    u64 caller;             /* the statement that last called one of our packages */
    u64 waiting;            /* whether drivers have something new or processes wait for no time */
    u64 spare;
} VState;

typedef struct Implicit { u32 kind, to; u32 at, size; u64 ticks; struct Implicit *next; } Implicit;

typedef struct Parts {      /* of a composite signal: its scalars one by one (16.2.4: the attributes of a part are the part's own) */
    u8 *last;               /* S'last_value */
    u32 *scalar;            /* by byte: the number of its scalar */
    u32 *start;             /* by scalar: its first byte, and one more */
    u64 *event_time, *active_time, *active_cycle;       /* by scalar; the times one higher, 0: never */
    u8 *given;              /* by byte: a transaction has come for it that is not yet taken */
} Parts;

typedef struct {            /* 128 bytes */
    u64 event_cycle, active_cycle;
    u8 *value, *before;     /* before: what it held before its last event */
    u32 size, flags;
    u32 fan_first, fan_count;
    u64 event_time, active_time;
    u32 driver_first, driver_count;
    u32 leaf_first, leaf_count;
    u32 low, high;          /* the bytes that the last event may have changed */
    Implicit *implicit;
    struct Parts *parts;    /* what is known of each scalar in it, where asked for */
    u8 *force;              /* mask of forced bytes, then their values */
    void *waits;
    u64 spare;
} VSig;

enum { V_RESOLVED = 1, V_WHOLE = 2, V_REGISTER = 4, V_BUS = 8, V_LISTED = 16, V_USER = 32, V_WATCHED = 64, V_BRIDGED = 128, V_ALONG = 256,
       V_EDGES = 512,           /* has functions for its edges that may be called at any event */
       V_NINE = 1024,           /* its levels are those of std_ulogic */
       V_JOINED = 2048,         /* the other language has to know of each change of its drivers */
       V_BESIDE = 4096 };       /* is forced or waited for: the kernel has to give it its values */

typedef struct Trans { u64 time; u32 size; u8 null; u8 value[8]; struct Trans *next; } Trans;

typedef struct {            /* 104 bytes */
    u8 *next;               /* image of the signal as this driver wants it */
    u32 sig, low, high, queued;      /* queued: bit 0 for in the list of those with something new, bit 1 for off before that */
    u32 pending, site;
    u8 *mask;               /* which bytes it drives; null: all that it writes */
    u8 *now;                /* its driving value, where several are resolved */
    Trans **heads;          /* by byte: what is to come */
    u32 off, number;
    u64 spare;
    u64 due;                /* one transaction of one scalar to come, beside the lists: most often there is no other */
    u32 due_at, due_size;   /* size 0: none */
    u8 due_value[8];
    u64 ticks;              /* of one that does nothing but invert its signal, a clock, after this time; else 0 */
} VDriver;

typedef struct { u32 proc, at, size, link; } VFan;           /* link: 0 wakes, 1 copies at once, else an edge: want << 8 | mask << 16 */
typedef struct { u32 sig, at, size, sig_number, form, count; } VLeaf;   /* what is recorded of a signal; form: LEAF_ */
enum { LEAF_NINE = 0, LEAF_BITS = 1, LEAF_NUMBER = 2, LEAF_PLANES = 3 };
typedef struct { u32 sig, at, size, spare; void (*fn)(u8 *mem, u8 *values, i64 count, u8 *out); } VResolution;
typedef struct { u8 *p; i64 left, right, down; } Vec;

extern VState *VS __attribute__((visibility("hidden")));
#define typed_due() (VS && VS->waiting)
int typed_clock(u32 driver, u64 last, u64 *next);
void typed_update(void);
void typed_wake(u32 driver);
u32 typed_resume(u32 number);
void typed_timeout(u32 proc, u32 generation);
void typed_arena(void);
void typed_start(void);
void bridges_start(void);
void bridges_out(void);
void bridge_in(u32 sig, u32 site);
void bridge_out(u32 number, u32 site);
void typed_without(u32 number, u32 driver, u32 low, u32 high, u8 *out);
void net_without(u32 sig, u64 joint, u8 *out);
void typed_drive(u32 driver, u32 at, const u8 *value, u32 size, u32 site, int now);
const u8 *typed_value(u32 number);
int typed_differs(u32 driver, u32 at, const u8 *value, u32 size);
void typed_settle(void);
void shown_open(const VSig *sigs, u32 count, const VLeaf *leaves);
void record_typed(const VSig *s, u32 site);
static inline int differ(const u8 *a, const u8 *b, u32 n) {         /* images are padded to whole words */
    if (n == 1) return *a != *b;
    if (n > 64) return memcmp(a, b, n);
    u64 any = 0, x, y;
    u32 i = 0;
    for (; i + 8 <= n; i += 8) { memcpy(&x, a + i, 8); memcpy(&y, b + i, 8); any |= x ^ y; }
    for (; i < n; i++) any |= a[i] ^ b[i];
    return any != 0;
}
u8 *arena(u64 size);
static inline i64 vec_length(i64 left, i64 right, i64 down) {
    i64 n = down ? left - right + 1 : right - left + 1;
    return n < 0 ? 0 : n;
}
void push_typed(u64 time, u32 driver);
extern u64 heap_count, reactive_count, shuffled __attribute__((visibility("hidden")));      /* of scheduler.c */
void v_stop(u32 site, const char *format, ...);
#endif
