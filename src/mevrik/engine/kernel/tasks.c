/* System tasks and functions (IEEE 1364-2005 clause 17). */
#include "kernel.h"

/* The text of a message goes to standard error as "severity SITE TEXT"; engine/run.py turns the site into a place. */
static void (*message_sink)(const char *severity, u32 site, u64 time, const char *text);
void k_message_sink(void (*sink)(const char *, u32, u64, const char *)) { message_sink = sink; }

void say(const char *severity, u32 site, const char *text) {
    out_flush();
    if (message_sink) message_sink(severity, site, K.now, text);
}


/* how: bit 0 newline; bits 4..7 severity (0 none, 1 info, 2 warning, 3 error, 4 fatal). file: channels, 1 is standard output. */
void k_print(u32 how, u32 radix, u32 file, u32 inst, const char *scope, int unit, u32 site, const Arg *args, u32 count) {
    if (nothing_new(args, count)) return;
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
    out_file(file, text, size);
    free(text);
}

void k_time_format(i64 unit, i64 precision, const char *suffix, i64 width) {
    K.time_unit = (int)unit; K.time_precision = (int)precision; K.time_width = (int)width;
    snprintf(K.time_suffix, sizeof K.time_suffix, "%s", suffix);
}

void k_time_format_args(const Arg *args, u32 count) {
    if (!count) { K.time_unit = 99; K.time_width = 20; K.time_suffix[0] = 0; return; }
    char suffix[64] = "";
    if (count > 2) text_of(&args[2], suffix, sizeof suffix);
    k_time_format((i64)(int)*(u64 *)args[0].val, count > 1 ? (i64)*(u64 *)args[1].val : 0, suffix, count > 3 ? (i64)*(u64 *)args[3].val : 20);
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

/* ---- time (17.7): in units of `divisor` ticks ---- */

u64 k_time(u64 divisor) { return divisor <= 1 ? K.now : (K.now + divisor / 2) / divisor; }
double k_realtime(double divisor) { return (double)K.now / divisor; }
