/* System tasks and functions (IEEE 1364-2005 clause 17). */
#include <errno.h>
#include <limits.h>
#include <math.h>
#include <time.h>
#include <unistd.h>
#include "kernel.h"

/* ---- output ---- */

static char *out; static size_t out_size; static struct timespec out_since;
enum { OUT_ROOM = 1 << 16 };

void out_flush(void) {
    size_t at = 0;
    while (at < out_size) {
        ssize_t n = write(1, out + at, out_size - at);
        if (n < 0) { if (errno == EINTR) continue; break; }
        at += (size_t)n;
    }
    out_size = 0;
}

static FILE *files[32];
static u32 files_used;

void out_bytes(int file, const char *data, size_t size) {
    if (file != 1) { if (file > 0 && files[file & 31]) fwrite(data, 1, size, files[file & 31]); return; }
    if (!out) out = malloc(OUT_ROOM);
    if (out_size + size > OUT_ROOM) out_flush();
    if (size > OUT_ROOM) { if (write(1, data, size) < 0) return; return; }
    memcpy(out + out_size, data, size);
    out_size += size;
    struct timespec now;
    clock_gettime(CLOCK_MONOTONIC_COARSE, &now);
    if (now.tv_sec != out_since.tv_sec || now.tv_nsec - out_since.tv_nsec > 50000000) { out_flush(); out_since = now; }
}

/* The text of a message goes to standard error as "severity SITE TEXT"; engine/run.py turns the site into a place. */
static void (*message_sink)(const char *severity, u32 site, u64 time, const char *text);
void k_message_sink(void (*sink)(const char *, u32, u64, const char *)) { message_sink = sink; }

void say(const char *severity, u32 site, const char *text) {
    out_flush();
    if (message_sink) message_sink(severity, site, K.now, text);
}


static u8 *shot; static size_t shot_size;

/* Whether the arguments of $monitor, times aside, differ from those printed last (17.1.3). */
static int monitor_differs(const Arg *args, u32 count) {
    size_t need = 0;
    for (u32 i = 0; i < count; i++) need += (args[i].kind & 255) && !(args[i].kind & ARG_TIME) ? 16 * words_of(args[i].width) : 0;
    u8 *now = calloc(1, need + 1);
    size_t at = 0;
    for (u32 i = 0; i < count; i++) {
        if (!(args[i].kind & 255) || (args[i].kind & ARG_TIME)) continue;
        size_t n = 8 * words_of(args[i].width);
        memcpy(now + at, args[i].val, n); at += n;
        if ((args[i].kind & 255) != ARG_REAL) { memcpy(now + at, args[i].unk, n); at += n; }
    }
    int differs = !shot || shot_size != need || memcmp(shot, now, need);
    if (differs) { free(shot); shot = now; shot_size = need; } else free(now);
    return differs;
}

/* how: bit 0 newline; bits 4..7 severity (0 none, 1 info, 2 warning, 3 error, 4 fatal). file: channels, 1 is standard output. */
void k_print(u32 how, u32 radix, u32 file, u32 inst, const char *scope, int unit, u32 site, const Arg *args, u32 count) {
    if (in_monitor) {
        int differs = monitor_differs(args, count);
        if (!differs && in_monitor == 1) return;
    }
    size_t size;
    char *text = format_args(radix, inst, scope, unit, args, count, &size);
    u32 severity = how >> 4;
    if (severity) {
        static const char *NAMES[] = {"", "info", "warning", "error", "fatal"};
        if (severity >= 3) K.exit_status = 1;
        say(NAMES[severity], site, text);
        free(text);
        return;
    }
    if (how & 1) text[size++] = '\n';                       /* room for it was kept */
    if (file & 0x80000000u) {
        u32 n = file & 31;
        if (file == 0x80000001u) out_bytes(1, text, size);
        else if (file == 0x80000002u) { out_flush(); if (write(2, text, size) < 0) size = 0; }
        else if (files[n]) fwrite(text, 1, size, files[n]);
    } else {
        if (file & 1) out_bytes(1, text, size);
        for (u32 n = 1; n < 31; n++) if ((file >> n & 1) && files[n]) fwrite(text, 1, size, files[n]);
    }
    free(text);

}

void k_time_format(i64 unit, i64 precision, const char *suffix, i64 width) {
    K.time_unit = (int)unit; K.time_precision = (int)precision; K.time_width = (int)width;
    snprintf(K.time_suffix, sizeof K.time_suffix, "%s", suffix);
}

/* A string held in a vector, as C text. */
static void text_of(const Arg *a, char *buffer, size_t room) {
    size_t n = 0;
    for (i64 i = (i64)(a->width + 7) / 8 - 1; i >= 0 && n + 1 < room; i--) {
        u8 c = ((u8 *)a->val)[i];
        if (c || n) buffer[n++] = (char)c;
    }
    buffer[n] = 0;
}

void k_time_format_args(const Arg *args, u32 count) {
    if (!count) { K.time_unit = 99; K.time_width = 20; K.time_suffix[0] = 0; return; }
    char suffix[64] = "";
    if (count > 2) text_of(&args[2], suffix, sizeof suffix);
    k_time_format((i64)(int)*(u64 *)args[0].val, count > 1 ? (i64)*(u64 *)args[1].val : 0, suffix, count > 3 ? (i64)*(u64 *)args[3].val : 20);
}

/* ---- files: only below the project folder (K.root) ---- */

static int allowed(const char *path, int writing) {
    if (!K.root) return 1;
    char full[PATH_MAX], folder[PATH_MAX];
    snprintf(folder, sizeof folder, "%s", path);
    if (!realpath(path, full)) {
        if (!writing) return 1;                              /* it is missing: the open will say so */
        char *slash = strrchr(folder, '/');
        if (slash) *slash = 0;
        if (!realpath(slash ? (folder[0] ? folder : "/") : ".", full)) return 0;
    }
    size_t n = strlen(K.root);
    return !strncmp(full, K.root, n) && (full[n] == '/' || !full[n]);
}

u32 k_fopen(const Arg *args, u32 count, u32 site) {
    char path[PATH_MAX], mode[8] = "";
    text_of(&args[0], path, sizeof path);
    if (count > 1) text_of(&args[1], mode, sizeof mode);
    int writing = count < 2 || strpbrk(mode, "wa+") != 0;
    if (!allowed(path, writing)) {
        char text[PATH_MAX + 80];
        snprintf(text, sizeof text, "$fopen: '%s' lies outside the project folder; --allow-files permits it", path);
        say("warning", site, text);
        return 0;
    }
    for (u32 n = 3; n < 31; n++)
        if (!(files_used >> n & 1)) {
            files[n] = fopen(path, count > 1 ? mode : "w");
            if (!files[n]) return 0;
            files_used |= 1u << n;
            return count > 1 ? 0x80000000u | n : 1u << n;
        }
    return 0;
}

void k_fclose(u32 file) {
    for (u32 n = 3; n < 31; n++)
        if (files[n] && (file & 0x80000000u ? (file & 31) == n : file >> n & 1)) { fclose(files[n]); files[n] = 0; files_used &= ~(1u << n); }
}
void k_fflush(u32 file) {
    (void)file;
    out_flush();
    for (u32 n = 3; n < 31; n++) if (files[n]) fflush(files[n]);
}
u32 k_feof(u32 file) { FILE *f = files[file & 31]; if (!f) return 1; int c = fgetc(f); if (c == EOF) return 1; ungetc(c, f); return 0; }
u32 k_fgetc(u32 file) { FILE *f = files[file & 31]; return f ? (u32)fgetc(f) : ~0u; }

/* $readmemb and $readmemh (17.2.9); `first`/`last` are the bounds as declared. */
void k_readmem(u32 sig, u32 site, u32 bits, const Arg *args, u32 count, i64 first, i64 last) {
    const Sig *s = &K.sigs[sig];
    char path[PATH_MAX], text[PATH_MAX + 160];
    text_of(&args[0], path, sizeof path);
    FILE *f = allowed(path, 0) ? fopen(path, "r") : 0;
    if (!f) {
        snprintf(text, sizeof text, "$readmem%c: '%s' can't be read (%s); the memory is unchanged", bits == 4 ? 'h' : 'b', path,
                 allowed(path, 0) ? strerror(errno) : "it lies outside the project folder");
        say("warning", site, text);
        return;
    }
    i64 low = first < last ? first : last, high = first < last ? last : first;
    i64 at = count > 1 ? (i64)(int)*(u64 *)args[1].val : low, end = count > 2 ? (i64)(int)*(u64 *)args[2].val : high;
    i64 step = count > 2 && end < at ? -1 : 1;
    u32 words = words_of(s->width);
    int c = fgetc(f), line = 1;
    i64 stored = 0;
    while (c != EOF) {
        if (c == '\n') line++;
        if (c == ' ' || c == '\t' || c == '\n' || c == '\r' || c == '\f') { c = fgetc(f); continue; }
        if (c == '/') {
            c = fgetc(f);
            if (c == '/') { while (c != EOF && c != '\n') c = fgetc(f); continue; }
            if (c == '*') {
                int before = 0;
                while ((c = fgetc(f)) != EOF && !(before == '*' && c == '/')) { if (c == '\n') line++; before = c; }
                c = fgetc(f);
                continue;
            }
        }
        if (c == '@') {
            at = 0;
            while ((c = fgetc(f)) != EOF && strchr("0123456789abcdefABCDEF_", c)) if (c != '_') at = at * 16 + (c <= '9' ? c - '0' : (c | 32) - 'a' + 10);
            continue;
        }
        u64 v[words + 1], u[words + 1];
        memset(v, 0, sizeof v); memset(u, 0, sizeof u);
        int bad = 0;
        for (; c != EOF && !strchr(" \t\r\n\f/", c); c = fgetc(f)) {
            if (c == '_') continue;
            u64 dv, du = 0, ones = bits == 4 ? 15 : 1;
            if (c == 'x' || c == 'X') dv = du = ones;
            else if (c == 'z' || c == 'Z' || c == '?') { dv = 0; du = ones; }
            else if (c >= '0' && c <= (bits == 4 ? '9' : '1')) dv = (u64)(c - '0');
            else if (bits == 4 && strchr("abcdefABCDEF", c)) dv = (u64)((c | 32) - 'a' + 10);
            else { bad = 1; break; }
            for (u32 i = words; i-- > 0;) {
                v[i] = v[i] << bits | (i ? v[i - 1] >> (64 - bits) : dv);
                u[i] = u[i] << bits | (i ? u[i - 1] >> (64 - bits) : du);
            }
        }
        if (bad) {
            snprintf(text, sizeof text, "$readmem%c: %s, line %d: '%c' is no digit; reading stops here", bits == 4 ? 'h' : 'b', path, line, c);
            say("warning", site, text);
            break;
        }
        if (s->width % 64) { v[words - 1] &= low_ones(s->width % 64); u[words - 1] &= low_ones(s->width % 64); }
        if (at < low || at > high) {
            snprintf(text, sizeof text, "$readmem%c: %s, line %d: the address %lld is outside %lld to %lld", bits == 4 ? 'h' : 'b', path, line,
                     (long long)at, (long long)low, (long long)high);
            say("warning", site, text);
            break;
        }
        if (step > 0 ? at > end : at < end) break;
        k_write(sig, site, (u32)(at - low), 0, s->width, v, u);
        stored++;
        at += step;
    }
    fclose(f);
}

/* ---- random numbers: the algorithm of 17.9.3 ---- */

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

static u64 urandom_state = 0x9E3779B97F4A7C15ULL;
void k_seed(u64 seed) { urandom_state = seed * 0x9E3779B97F4A7C15ULL + 0x1234567; }
u32 k_urandom(void) {
    u64 z = (urandom_state += 0x9E3779B97F4A7C15ULL);
    z = (z ^ z >> 30) * 0xBF58476D1CE4E5B9ULL;
    z = (z ^ z >> 27) * 0x94D049BB133111EBULL;
    return (u32)(z ^ z >> 31);
}
u32 k_urandom_range(u32 high, u32 low) {
    if (low > high) { u32 t = low; low = high; high = t; }
    u64 span = (u64)high - low + 1;
    return (u32)(low + k_urandom() % span);
}

/* ---- plusargs (17.10); the arguments are kept as text, one a line ---- */

static const char *find_plus(const char *want) {
    size_t n = strlen(want);
    for (const char *p = K.argv_plus; p && *p; p = strchr(p, '\n') ? strchr(p, '\n') + 1 : 0)
        if (!strncmp(p, want, n)) return p;
    return 0;
}
u32 k_test_plus(const Arg *args) {
    char want[256];
    text_of(&args[0], want, sizeof want);
    return find_plus(want) != 0;
}
u32 k_value_plus(const Arg *args, u32 sig, u32 site) {
    char want[256];
    text_of(&args[0], want, sizeof want);
    char *percent = strchr(want, '%');
    if (!percent) return 0;
    char kind = percent[1] == '0' ? percent[2] : percent[1];
    *percent = 0;
    const char *found = find_plus(want);
    if (!found) return 0;
    found += percent - want;
    char value[1024];
    size_t n = strcspn(found, "\n");
    if (n >= sizeof value) n = sizeof value - 1;
    memcpy(value, found, n);
    value[n] = 0;
    const Sig *s = &K.sigs[sig];
    u32 words = words_of(s->width);
    u64 v[words + 1], u[words + 1];
    memset(v, 0, sizeof v); memset(u, 0, sizeof u);
    u32 bits = kind == 'h' || kind == 'x' || kind == 'H' ? 4 : kind == 'o' ? 3 : kind == 'b' ? 1 : 0;
    if (kind == 's') {
        for (size_t i = 0; i < n && i < words * 8; i++) ((u8 *)v)[i] = (u8)value[n - 1 - i];
    } else if (bits) {
        for (size_t i = 0; i < n; i++) {
            char c = value[i];
            u64 dv, du = 0, ones = low_ones(bits);
            if (c == '_') continue;
            if (c == 'x' || c == 'X') dv = du = ones;
            else if (c == 'z' || c == 'Z') { dv = 0; du = ones; }
            else dv = (u64)(c <= '9' ? c - '0' : (c | 32) - 'a' + 10) & ones;
            for (u32 w = words; w-- > 0;) {
                v[w] = v[w] << bits | (w ? v[w - 1] >> (64 - bits) : dv);
                u[w] = u[w] << bits | (w ? u[w - 1] >> (64 - bits) : du);
            }
        }
    } else if (s->flags & FLAG_REAL) {
        double d = strtod(value, 0);
        memcpy(v, &d, 8);
    } else {
        i64 x = strtoll(value, 0, 10);
        for (u32 i = 0; i < words; i++) v[i] = i ? (u64)(x >> 63) : (u64)x;
    }
    if (s->width % 64) { v[words - 1] &= low_ones(s->width % 64); u[words - 1] &= low_ones(s->width % 64); }
    k_write(sig, site, 0, 0, s->width, v, u);
    return 1;
}

/* ---- arithmetic of wide vectors and of reals ---- */

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
void k_close_files(void) { k_fflush(0); for (u32 n = 3; n < 31; n++) if (files[n]) { fclose(files[n]); files[n] = 0; } }

/* ---- time (17.7): in units of `divisor` ticks ---- */

u64 k_time(u64 divisor) { return divisor <= 1 ? K.now : (K.now + divisor / 2) / divisor; }
double k_realtime(double divisor) { return (double)K.now / divisor; }
