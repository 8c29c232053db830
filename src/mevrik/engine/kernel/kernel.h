/* The run-time kernel: what generated code calls, and the event scheduler of IEEE 1364-2005 clause 11.
 *
 * One process runs one simulation, so the state is global. Values are planes of bits: 0 is (0,0), 1 is (1,0), z is (0,1),
 * x is (1,1) in (value, unknown). A signal's planes lie behind each other in the memory block, each `bytes` long; bits above
 * the width are 0. Sig, Fan and Driver are packed by engine/tables.py; engine/abi.py mirrors what else Python sees.
 */
#ifndef MEVRIK_KERNEL_H
#define MEVRIK_KERNEL_H
#include <stdint.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

typedef uint8_t u8;
typedef uint16_t u16;
typedef uint32_t u32;
typedef uint64_t u64;
typedef int64_t i64;

enum { WATCH_FAN = 1, WATCH_RECORD = 2, WATCH_WAIT = 4, WATCH_SWITCH = 8, WATCH_SAMPLE = 16, WATCH_DUMP = 32, WATCH_BITS = 64, WATCH_TYPED = 128 };
enum { EDGE_ANY = 0, EDGE_POS = 1, EDGE_NEG = 2, EDGE_BOTH = 3 };
enum { FLAG_NET = 1, FLAG_EVENT = 2, FLAG_REAL = 4, FLAG_FORCIBLE = 8, FLAG_RESOLVED = 16, FLAG_TEXT = 32 };
enum { ENDED_QUIET = 0, ENDED_FINISH = 1, ENDED_STOP = 2, ENDED_LIMIT = 3, ENDED_ERROR = 4, ENDED_CANCEL = 5, ENDED_PAUSE = 6 };

typedef struct {            /* 56 bytes, filled from Python */
    u64 offset;             /* of the value plane in the memory block */
    u32 width, bytes;       /* bits; bytes of one plane of one element */
    u32 planes, elements;
    u32 fan_first, fan_count;
    u32 flags, net;         /* net: 0 wire, 1 wand, 2 wor, 3 tri0, 4 tri1, 5 trireg, 6 supply0, 7 supply1 */
    u32 driver_first, driver_count;
} Sig;

typedef struct { u32 proc, edge; } Fan;

typedef struct Frame {      /* 56 bytes, then the locals */
    u32 fn, state;
    struct Frame *parent;   /* who called this task */
    u8 *inst;               /* instance table */
    struct Frame *link;     /* enclosing frame, for the branches of a fork */
    u32 proc, pending;      /* pending: branches that have not ended */
    u32 depth, users;       /* how many tasks deep; how many branches have this one as their enclosing frame */
    u32 group, left;        /* counts the forks that were waited for; 1: its task has returned or its process ended */
} Frame;

enum { TAG_CONDITION = 2 };         /* of the waits for a condition, which counts even if it came while the process was suspended */
typedef struct Wait { u32 proc, sig, edge, tag; struct Wait *next, **back, *sibling; } Wait;

/* Proc.state: a STATIC process has its `armed` byte set while it waits, and again after each run; the others are QUEUED while
 * they stand in the active queue. An EAGER one, a continuous assignment, is armed while it runs too: it sees its own change. A
 * REACTIVE one runs when the active, inactive and nonblocking regions are empty (IEEE 1800-2017 4.4.2.6); the simulation ends
 * with the last one OF_PROGRAM (24.3). One whose handle was taken is HELD; what has ended otherwise is SPARE for a new branch. */
enum { QUEUED = 2, STATIC = 4, DEAD = 8, EAGER = 16, REACTIVE = 32, OF_PROGRAM = 64, KILLED = 128, SUSPENDED = 256, MISSED = 512, CELL = 1024, STACKED = 2048, HELD = 4096, SPARE = 8192 };

/* The part of the scheduler that generated code works on directly; it lies in the memory block (engine/layout.py). */
typedef struct {
    u64 head, tail, mask;   /* of the active queue */
    u64 ring_at;
    u32 ring[64];           /* the statements that wrote last */
} Scheduler;

/* Wakes what waits for a change of one signal: code made for its fan-out. */
typedef void (*CommitFn)(u8 *mem, u32 site, u32 was, u32 is);
/* Writes a whole signal of up to 64 bits. */
typedef void (*ApplyFn)(u8 *mem, u64 val, u64 unk, u32 site);

typedef u32 (*ProcFn)(u8 *mem, Frame *frame);
/* Does all that an edge of a clock wakes (engine/lower/edges.py), or as much of it as goes before what is queued, and counts deltas. */
struct Kernel;
/* All that an edge of a clock wakes (engine/lower/edges.py): 1 if something is left to do. Up to `last` it goes on to the next such edge,
 * `stride` later, by itself; between the two is one that nobody has to know of. */
typedef u32 (*EdgeFn)(u8 *mem, struct Kernel *k, u64 stride, u64 last);
/* The same for VHDL (engine/typed/edges.py), which also gives 2 if the kernel was called; before: 3 if something may wait in it, else 0. */
typedef u32 (*TypedEdgeFn)(u8 *mem, struct Kernel *k, u32 before, u64 stride, u64 last);

typedef struct {            /* 72 bytes */
    Frame *top;
    ProcFn fn;              /* of a static process */
    u32 state, generation;
    Wait *waits;
    u32 reason;             /* tag of the wait that fired */
    u32 join_any;
    Frame *join;            /* frame that waits for this branch */
    u64 clock_ticks;        /* of a process that does nothing but invert one bit at this distance; else 0 */
    u32 clock_sig, clock_site;
    u32 parent, children;   /* the process that forked this one, plus one; how many branches of this one run on */
    u32 waits_for_children, fork;    /* the fork statement of its function that it is a branch of; 0: none */
    u32 group, kept;        /* which of the forks of `join` it is a branch of; how many branches of this one keep their numbers */
} Proc;

typedef struct {            /* 64 bytes, a line of the cache; filled from Python */
    u32 sig, low, width, site;
    u8 strength0, strength1;
    u8 alone;               /* nothing else drives its bits of a plain net */
    u8 simple;              /* and that is a net of one bit which nothing forces: what it wakes is kept here too */
    u32 bytes, generation, pending;
    u64 offset;             /* of the driver's planes, each `bytes` long, now and to come; those of one bit are `planes` */
    u32 value, fan_first, fan_count;    /* `value`: where the planes of the net lie in the memory block */
    u8 planes[4];
    u64 joint;              /* not 0: brings what drives the other side of a port between the languages, by the number of its driver there plus one */
} Driver;

typedef struct { u32 a, a_bit, b, b_bit, control, control_bit, active, resistive, one_way; } Switch;     /* resistive: 2 for a connection; control ~0: always closed;
                           one_way: from b to a only */

typedef struct { u32 kind, width; void *val, *unk; u32 sig, bit; } Arg;   /* sig: ~0 unless a plain signal or one of its bits */
enum { ARG_NONE = 0, ARG_VECTOR = 1, ARG_REAL = 2, ARG_TEXT = 3, ARG_STRING = 4, ARG_SIGNED = 256, ARG_TIME = 512 };

typedef struct Kernel {
    u8 *mem;
    u8 *watch;
    Sig *sigs;
    Fan *fans;
    Driver *drivers;
    Proc *procs;
    ProcFn *fns, *fns_next;
    CommitFn *commits, *commits_next;   /* by signal; 0: k_changed */
    ApplyFn *applies, *applies_next;    /* by signal; 0: k_write */
    EdgeFn *edges, *edges_next;         /* by clock, twice its number and its new value; 0: through the queue */
    TypedEdgeFn *typed_edges, *typed_edges_next;     /* the same for the signals of VHDL */
    Scheduler *scheduler;
    u8 *armed;
    u32 *active;
    u32 sig_count, proc_count, proc_room, fn_count;
    volatile u32 attention; /* any of the requests below is set */
    volatile u32 swap, cancel, pause, flush;
    volatile u32 heavy;     /* the process holds more memory than it may: GiB, else 0 */
    u32 beside;             /* something was scheduled elsewhere than in the queue of processes, since this was last set to 0 */
    u64 now, limit;
    u64 delta, batches, delta_limit, loop_limit, loops;
    u64 steps, changes;
    u32 cur, ended;
    int exit_status;
    const char **inst_names;
    const char *argv_plus;
    int tick_exp;
    int time_unit, time_precision, time_width;
    char time_suffix[64];
    char error[512];
    u32 error_site;
    const char *root;       /* files must lie below this folder; null: anywhere */
    u32 programs;           /* procedures of programs that have not ended */
    const u32 *inst_parents; /* by the number of an instance, that of the one around it */
} Kernel;

extern Kernel K __attribute__((visibility("hidden")));

void k_changed(u32 sig, u32 site, u32 was, u32 is);
void k_write(u32 sig, u32 site, u32 elem, i64 low, u32 width, const u64 *val, const u64 *unk);
void k_drive(u32 driver, u32 site, const u64 *val, const u64 *unk);
typedef struct { int low, high; } Range;    /* a bit as a range of strengths from -7 (supply 0) over 0 (none) to 7 (supply 1); 7.10 */
Range combine(Range a, Range b, u32 net);
Range driver_bit(const Driver *d, u32 at);
Range stored_bit(const Sig *s, u32 bit, u32 strength);
enum { HALF_LOW = 2, HALF_HIGH = 4 };   /* beside the value of a driver of one bit: 0 or z, 1 or z (7.3) */
void wake_fan(const Driver *d, u32 was, u32 is);
void drive_bit(Driver *d, u32 v, u32 u);
void k_resolve(u32 sig, u32 site);
void push_decay(u32 sig, u32 generation, u64 ticks);
void push_pulse(u64 time, u32 edge);
void pulse_due(u32 edge);
void pulses_begin(void);
void charge_lost(u32 sig, u32 generation);
void switch_control_changed(u32 sig, u32 site);
int switch_resolve(u32 sig, u32 site);
i64 k_text_compare(u64 a, u64 b, u32 fold);
u32 k_urandom_range(u32 high, u32 low);
void random_process(u32 process, u32 instance);
void random_branch(u32 process);
u64 random_of_maker(void);
u64 *object_random(u64 handle);
u32 k_list_size(u64 h);
void k_list_get(u64 h, i64 i, u32 width, u32 planes, u64 *v, u64 *u);
u64 k_map_key(u64 h, i64 i);
u64 k_list_clone(u64 h);
u64 k_text(const char *data, u32 size);
const char *text_bytes(u64 t, u32 *size);
void k_multiply(u64 *out_words, const u64 *a, const u64 *b, u32 n);
void k_finish(u32 how, u32 site);
void k_stop(u32 how, u32 site, const char *message);
void *grow(void *p, u64 *room, u64 need, size_t size);
void schedule_proc(u32 number);
void drop_waits(Proc *p);
void leave_queues(u32 number);
void end_process(u32 number);
void leave_process(void) __attribute__((noreturn));
void disarm(u32 number);
void bury(u32 number);
void branches_begin(void);
void asserts_begin(void);
void monitors_begin(void);
void monitors_close(u32 file);
int monitoring(void);
void print_late(void);
void print_monitors(void);
int nothing_new(const Arg *args, u32 count);
void record_change(u32 sig, u32 site);
void v_record_nine(u32 sig, u32 site, const u8 *in, u32 count);
void record_flush(void);
void out_flush(void);
void out_bytes(int file, const char *data, size_t size);
void out_file(u32 file, const char *text, size_t size);
void text_of(const Arg *a, char *buffer, size_t room);
const char *file_at(const char *path);
int file_allowed(const char *path, int writing);
void bits_changed(u32 sig);
void wake_static(u32 proc);
void evaluate_cell(u32 place);
void fetch_cell(u32 place);
void fetch_inputs(u32 place);
void start_cells(u32 first, u32 count);
void drive_bit_after(u32 number, u32 site, u32 v, u32 u, u32 ticks);
void dump_changed(u32 sig);
int dumping(void);
void dump_moment(void);
int dumping_ports(void);
void ports_moment(void);
void say(const char *severity, u32 site, const char *text);
char *format_args(u32 radix, u32 inst, const char *scope, int unit, const Arg *args, u32 count, size_t *size);
void bits_load(const u8 *at, u32 bytes, u64 *words);

/* What a variable holds that stands for an object, a list or a text: a number below what tells the three apart, and from any other value that may
 * lie in memory (collect.c). Texts of the design itself have their number alone. */
enum { OF_OBJECT = 0x5CE3A1, OF_LIST = 0x3A96D7, OF_TEXT = 0x6B5D29 };
#define HANDLE(of, number) ((u64)(of) << 40 | (number))
#define NUMBER(handle) ((handle) & ((1ULL << 40) - 1))
extern u64 owed, owed_most __attribute__((visibility("hidden")));   /* bytes that have been asked for since the last collection, and when the next one is due */
void collect(void);
typedef void Scan(const void *from, u64 bytes);
void frames_scan(Scan *scan);
void updates_scan(Scan *scan);
void held_scan(Scan *scan);
void objects_ready(void); int object_reached(u64 number); void object_scan(u64 number, Scan *scan); u64 objects_swept(void);
void lists_ready(void); int list_reached(u64 number); void list_scan(u64 number, Scan *scan); void lists_in_use(void (*reach)(u64)); u64 lists_swept(void);
void texts_ready(void); void text_reached(u64 number); u64 texts_swept(void);
#define LIKELY(x) __builtin_expect(!!(x), 1)
#define UNLIKELY(x) __builtin_expect(!!(x), 0)
static inline u32 words_of(u32 width) { return (width + 63) / 64; }
static inline u64 low_ones(u32 n) { return n >= 64 ? ~0ULL : ((1ULL << n) - 1); }
#endif
