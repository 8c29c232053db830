/* Random numbers: the algorithm that the standard prints (IEEE 1364-2005 17.9.3), and $urandom (IEEE 1800-2017 18.13) with a source of its own
 * for each process and each object (18.14). */
#include <limits.h>
#include <math.h>
#include "kernel.h"

static double uniform(i64 *seed_out, int start, int end) {
    union { float s; u32 bits; } u;
    int seed = (int)*seed_out;
    double d = 0.00000011920928955078125, a, b, c;
    if (seed == 0) seed = 259341593;
    if (start >= end) { a = 0.0; b = 2147483647.0; } else { a = start; b = end; }
    seed = (int)(69069u * (u32)seed + 1u);
    u.bits = ((u32)seed >> 9) | 0x3f800000;
    c = (double)u.s;
    c = c + c * d;
    c = (b - a) * (c - 1.0) + a;
    *seed_out = seed;
    return c;
}

u32 k_random(u32 *seed_at) {
    static i64 own = 0;
    i64 seed = seed_at ? (int)*seed_at : own;
    double r = (uniform(&seed, INT_MIN, INT_MAX) + 2147483648.0) / 4294967295.0;
    r = r * 4294967296.0 - 2147483648.0;
    int i = r >= 0 ? (int)r : (int)(r - 1);
    if (seed_at) *seed_at = (u32)seed; else own = seed;
    return (u32)i;
}

static u64 seeded(u64 seed) { return seed * 0x9E3779B97F4A7C15ULL + 0x1234567; }
static u64 next(u64 *state) {
    u64 z = (*state += 0x9E3779B97F4A7C15ULL);
    z = (z ^ z >> 30) * 0xBF58476D1CE4E5B9ULL;
    z = (z ^ z >> 27) * 0x94D049BB133111EBULL;
    return z ^ z >> 31;
}
static u64 first = 0x9E3779B97F4A7C15ULL;      /* what each instance begins with */
static u64 *of_process, process_room, *of_instance, instance_room;
static u64 *state_of(u32 process) {
    u64 had = process_room;
    of_process = grow(of_process, &process_room, (u64)process + 1, sizeof *of_process);
    for (u64 i = had; i < process_room; i++) of_process[i] = first + i;
    return &of_process[process];
}
void k_seed(u64 seed) { first = seeded(seed); }

/* A process of the design takes the next number of its instance, so that what other instances do makes no difference; a branch, and an object, the
 * next number of the process that makes it (18.14.1). */
void random_process(u32 process, u32 instance) {
    u64 had = instance_room;
    of_instance = grow(of_instance, &instance_room, (u64)instance + 1, sizeof *of_instance);
    for (u64 i = had; i < instance_room; i++) of_instance[i] = first;
    *state_of(process) = next(&of_instance[instance]);
}
void random_branch(u32 process) { u64 state = next(state_of(K.cur)); *state_of(process) = state; }
u64 random_of_maker(void) { return next(state_of(K.cur)); }

static u32 in_range(u64 *state, u32 high, u32 low) {
    if (low > high) { u32 t = low; low = high; high = t; }
    u64 span = (u64)high - low + 1;
    return (u32)(low + (u32)next(state) % span);
}
u32 k_urandom(void) { return (u32)next(state_of(K.cur)); }
u32 k_urandom_range(u32 high, u32 low) { return in_range(state_of(K.cur), high, low); }
/* $urandom with a seed: the same seed gives the same numbers (18.13.1). */
u32 k_urandom_seed(u64 seed) { *state_of(K.cur) = seeded(seed); return k_urandom(); }

/* `whose`: the number of a process or the handle of an object (18.13.3 to 18.13.5). */
static u64 *state_at(u64 whose) { return whose >> 40 == OF_OBJECT ? object_random(whose) : state_of((u32)whose); }
u32 k_seed_of(u64 whose, u64 seed) { *state_at(whose) = seeded(seed); return 0; }
u32 k_draw_of(u64 whose) { return (u32)next(state_at(whose)); }
u32 k_draw_range_of(u64 whose, u32 high) { return in_range(state_at(whose), high, 0); }
u64 k_state_of(u64 whose) {
    char text[17];
    return k_text(text, (u32)snprintf(text, sizeof text, "%016llx", (unsigned long long)*state_at(whose)));
}
u32 k_restore_of(u64 whose, u64 text) {
    u32 size;
    const char *digits = text_bytes(text, &size);
    char *end;
    u64 state = strtoull(digits, &end, 16);
    if (size != 16 || *end) { say("warning", K.scheduler->ring[(K.scheduler->ring_at - 1) & 63], "set_randstate: the text comes from no get_randstate, so nothing changes (18.13.5)"); return 0; }
    *state_at(whose) = state;
    return 1;
}


/* ---- distributions (17.9.2) ---- */

static double normal(i64 *seed, int mean, int deviation) {
    double v1 = 0, v2, s = 1.0;
    while (s >= 1.0 || s == 0.0) {
        v1 = uniform(seed, -1, 1);
        v2 = uniform(seed, -1, 1);
        s = v1 * v1 + v2 * v2;
    }
    s = v1 * sqrt(-2.0 * log(s) / s);
    return s * deviation + mean;
}
static double exponential(i64 *seed, int mean) {
    double n = uniform(seed, 0, 1);
    return n != 0 ? -log(n) * mean : n;
}
static int poisson(i64 *seed, int mean) {
    int n = 0;
    double p = exp(-(double)mean), q = uniform(seed, 0, 1);
    while (p < q) { n++; q = uniform(seed, 0, 1) * q; }
    return n;
}
static double chi_square(i64 *seed, int degrees) {
    double x = 0;
    if (degrees % 2) { x = normal(seed, 0, 1); x = x * x; }
    for (int k = 2; k <= degrees; k += 2) x += 2 * exponential(seed, 1);
    return x;
}
static double student(i64 *seed, int degrees) {
    double root = sqrt(chi_square(seed, degrees) / degrees);
    return normal(seed, 0, 1) / root;
}
static double erlang(i64 *seed, int k, int mean) {
    double x = 1.0;
    for (int i = 1; i <= k; i++) x *= uniform(seed, 0, 1);
    return -(double)mean * log(x) / k;
}
static int rounded(double r) { return r >= 0 ? (int)(r + 0.5) : -(int)(-r + 0.5); }
static int spread(i64 *seed, int start, int end) {
    double r;
    int i;
    if (start >= end) return start;
    if (end != INT_MAX) {
        r = uniform(seed, start, end + 1);
        i = r >= 0 ? (int)r : (int)(r - 1);
        if (i < start) i = start;
        if (i > end) i = end;
    } else if (start != INT_MIN) {
        r = uniform(seed, start - 1, end) + 1.0;
        i = r >= 0 ? (int)r : (int)(r - 1);
        if (i < start) i = start;
        if (i > end) i = end;
    } else {
        r = (uniform(seed, start, end) + 2147483648.0) / 4294967295.0;
        r = r * 4294967296.0 - 2147483648.0;
        i = r >= 0 ? (int)r : (int)(r - 1);
    }
    return i;
}
/* which: 0 uniform, 1 normal, 2 exponential, 3 poisson, 4 chi_square, 5 t, 6 erlang */
u32 k_distribution(u32 which, u32 *seed_at, int a, int b) {
    i64 seed = (int)*seed_at;
    int r = 0;
    switch (which) {
    case 0: r = spread(&seed, a, b); break;
    case 1: r = rounded(normal(&seed, a, b)); break;
    case 2: if (a > 0) r = rounded(exponential(&seed, a)); break;
    case 3: if (a > 0) r = poisson(&seed, a); break;
    case 4: if (a > 0) r = rounded(chi_square(&seed, a)); break;
    case 5: if (a > 0) r = rounded(student(&seed, a)); break;
    case 6: if (a > 0) r = rounded(erlang(&seed, a, b)); break;
    }
    *seed_at = (u32)seed;
    return (u32)r;
}
