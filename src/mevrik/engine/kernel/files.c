/* Files and what is printed (IEEE 1364-2005 17.2): opening, reading, memories filled from text. */
#include <ctype.h>
#include <errno.h>
#include <limits.h>
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

/* Text to the channels of a multichannel descriptor, or to the file of a descriptor (17.2.1). */
void out_file(u32 file, const char *text, size_t size) {
    if (file & 0x80000000u) {
        u32 n = file & 31;
        if (file == 0x80000001u) out_bytes(1, text, size);
        else if (file == 0x80000002u) { out_flush(); if (write(2, text, size) < 0) size = 0; }
        else if (files[n]) fwrite(text, 1, size, files[n]);
        return;
    }
    if (file & 1) out_bytes(1, text, size);
    for (u32 n = 1; n < 31; n++) if ((file >> n & 1) && files[n]) fwrite(text, 1, size, files[n]);
}

/* A string held in a vector, as C text. */
void text_of(const Arg *a, char *buffer, size_t room) {
    size_t n = 0;
    for (i64 i = (i64)(a->width + 7) / 8 - 1; i >= 0 && n + 1 < room; i--) {
        u8 c = ((u8 *)a->val)[i];
        if (c || n) buffer[n++] = (char)c;
    }
    buffer[n] = 0;
}

/* ---- files: only below the project folder (K.root) ---- */

/* Where a path leads: from the project folder, wherever the simulator was started. */
const char *file_at(const char *path) {
    static char joined[2 * PATH_MAX];
    if (!K.root || !*path || *path == '/') return path;
    snprintf(joined, sizeof joined, "%s/%s", K.root, path);
    return joined;
}

int file_allowed(const char *path, int writing) {
    if (!K.root) return 1;
    char full[PATH_MAX], folder[2 * PATH_MAX];
    snprintf(folder, sizeof folder, "%s", file_at(path));
    if (!realpath(folder, full)) {
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
    if (!file_allowed(path, writing)) {
        char text[PATH_MAX + 80];
        snprintf(text, sizeof text, "$fopen: '%s' lies outside the project folder; --allow-files permits it", path);
        say("warning", site, text);
        return 0;
    }
    u32 n = count > 1 ? 3 : 1;               /* a descriptor: 0 to 2 are the standard files; a channel: 0 is the standard output */
    while (n < 31 && files_used >> n & 1) n++;
    if (n == 31) return 0;
    files[n] = fopen(file_at(path), count > 1 ? mode : "w");
    if (!files[n]) return 0;
    files_used |= 1u << n;
    return count > 1 ? 0x80000000u | n : 1u << n;
}

void k_fclose(u32 file) {
    monitors_close(file);
    for (u32 n = 1; n < 31; n++)
        if (files[n] && (file & 0x80000000u ? (file & 31) == n : file >> n & 1)) { fclose(files[n]); files[n] = 0; files_used &= ~(1u << n); }
}
void k_fflush(u32 file) {
    (void)file;
    out_flush();
    for (u32 n = 1; n < 31; n++) if (files[n]) fflush(files[n]);
}
static FILE *file_of(u32 file) {
    if (file & 0x80000000u) return (file & 0x7fffffff) == 0 ? stdin : files[file & 31];
    for (u32 n = 1; n < 31; n++) if (file >> n & 1) return files[n];
    return 0;
}
u32 k_feof(u32 file) { FILE *f = file_of(file); return !f || feof(f); }       /* the end was met by reading (17.2.8) */
u32 k_fgetc(u32 file) { FILE *f = file_of(file); return f ? (u32)fgetc(f) : ~0u; }

/* $readmemb and $readmemh (17.2.9); `first`/`last` are the bounds as declared, `row` the words of an address: one, or all that lie
   in further dimensions (IEEE 1800-2017 21.4.3). */
void k_readmem(u32 sig, u32 site, u32 bits, const Arg *args, u32 count, i64 first, i64 last, u32 row) {
    const Sig *s = &K.sigs[sig];
    char path[PATH_MAX], text[PATH_MAX + 160];
    text_of(&args[0], path, sizeof path);
    FILE *f = file_allowed(path, 0) ? fopen(file_at(path), "r") : 0;
    if (!f) {
        snprintf(text, sizeof text, "$readmem%c: '%s' can't be read (%s); the memory is unchanged", bits == 4 ? 'h' : 'b', path,
                 file_allowed(path, 0) ? strerror(errno) : "it lies outside the project folder");
        say("warning", site, text);
        return;
    }
    i64 low = first < last ? first : last, high = first < last ? last : first;
    i64 at = count > 1 ? (i64)(int)*(u64 *)args[1].val : low, end = count > 2 ? (i64)(int)*(u64 *)args[2].val : high;
    i64 step = count > 2 && end < at ? -1 : 1, start = at, words_read = 0;
    int addressed = 0, more = 0;
    u32 words = words_of(s->width);
    int c = fgetc(f), line = 1;
    u32 column = 0;
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
            at = column = 0;
            addressed = 1;
            while ((c = fgetc(f)) != EOF && strchr("0123456789abcdefABCDEF_", c)) if (c != '_') at = at * 16 + (c <= '9' ? c - '0' : (c | 32) - 'a' + 10);
            if (count > 1 && (step > 0 ? at < start || at > end : at > start || at < end)) {
                snprintf(text, sizeof text, "$readmem%c: %s, line %d: the address %lld is outside of what is to be read, %lld to %lld; reading stops here",
                         bits == 4 ? 'h' : 'b', path, line, (long long)at, (long long)start, (long long)end);
                say("warning", site, text);
                break;
            }
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
        if (step > 0 ? at > end : at < end) { more = 1; break; }
        if (at < low || at > high) {
            snprintf(text, sizeof text, "$readmem%c: %s, line %d: the address %lld is outside %lld to %lld", bits == 4 ? 'h' : 'b', path, line,
                     (long long)at, (long long)low, (long long)high);
            say("warning", site, text);
            break;
        }
        k_write(sig, site, (u32)(at - low) * row + column, 0, s->width, v, u);
        if (++column == row) { column = 0; at += step; words_read++; }
    }
    i64 wanted = (end - start) * step + 1;
    if (count > 2 && !addressed && (more || (c == EOF && words_read < wanted))) {
        snprintf(text, sizeof text, "$readmem%c: '%s' holds %s words than the %lld that are to be read", bits == 4 ? 'h' : 'b', path,
                 more ? "more" : "fewer", (long long)wanted);
        say("warning", site, text);
    }
    fclose(f);
}

void k_close_files(void) { k_fflush(0); for (u32 n = 1; n < 31; n++) if (files[n]) { fclose(files[n]); files[n] = 0; } }


/* ---- reading (17.2.4) ---- */

u32 k_ungetc(u32 c, u32 file) { FILE *f = file_of(file); return f && ungetc((int)c, f) != EOF ? 0 : ~0u; }
u32 k_rewind(u32 file) { FILE *f = file_of(file); return f ? (u32)fseek(f, 0, SEEK_SET) : ~0u; }
u32 k_fseek(u32 file, u32 offset, u32 operation) {
    FILE *f = file_of(file);
    return f && operation < 3 ? (u32)fseek(f, (int)offset, (int)operation) : ~0u;
}
u32 k_ftell(u32 file) { FILE *f = file_of(file); return f ? (u32)ftell(f) : ~0u; }

/* Puts characters into a variable: a string, or a vector that keeps the last ones. */
static void put_text(u32 sig, u32 site, const char *text, size_t n) {
    const Sig *s = &K.sigs[sig];
    u32 words = words_of(s->width);
    u64 v[words + 1], u[words + 1];
    memset(v, 0, sizeof v); memset(u, 0, sizeof u);
    if (s->flags & FLAG_TEXT) v[0] = k_text(text, (u32)n);
    else {
        for (size_t i = 0; i < n && i < words * 8; i++) ((u8 *)v)[i] = (u8)text[n - 1 - i];
        if (s->width % 64) v[words - 1] &= low_ones(s->width % 64);
    }
    k_write(sig, site, 0, 0, s->width, v, u);
}
static void put_number(u32 sig, u32 site, i64 x) {
    const Sig *s = &K.sigs[sig];
    u32 words = words_of(s->width);
    u64 v[words + 1], u[words + 1];
    memset(u, 0, sizeof u);
    if (s->flags & FLAG_REAL) { double d = (double)x; memcpy(v, &d, 8); }
    else for (u32 i = 0; i < words; i++) v[i] = i ? (u64)(x >> 63) : (u64)x;
    if (s->width % 64) v[words - 1] &= low_ones(s->width % 64);
    k_write(sig, site, 0, 0, s->width, v, u);
}

/* A line with its end, as far as the variable has room; the number of characters, 0 at the end of the file. */
u32 k_fgets(u32 sig, u32 file) {
    FILE *f = file_of(file);
    const Sig *s = &K.sigs[sig];
    if (!f) return 0;
    size_t room = s->flags & FLAG_TEXT ? 1 << 20 : s->width / 8, n = 0;
    char *line = malloc(room + 1);
    while (n < room) {
        int c = fgetc(f);
        if (c == EOF) break;
        line[n++] = (char)c;
        if (c == '\n') break;
    }
    if (n) put_text(sig, 0, line, n);
    free(line);
    return (u32)n;
}
u32 k_ferror(u32 file, u32 sig) {
    FILE *f = file_of(file);
    int code = !f ? EBADF : ferror(f) ? EIO : 0;
    const char *text = code ? strerror(code) : "";
    put_text(sig, 0, text, strlen(text));
    return (u32)code;
}
/* Binary data, the highest byte first (17.2.4.4): one variable, or elements of a memory from `start` on. */
u32 k_fread(u32 sig, u32 file, i64 first, i64 last, i64 start, i64 count) {
    FILE *f = file_of(file);
    const Sig *s = &K.sigs[sig];
    u32 bytes = (s->width + 7) / 8, words = words_of(s->width), got = 0;
    if (!f) return 0;
    i64 low = first < last ? first : last, high = first < last ? last : first;
    if (s->elements == 1) low = high = start = 0;
    if (start < low) start = low;
    i64 end = count >= 0 && start + count - 1 < high ? start + count - 1 : high;
    for (i64 at = start; at <= end; at++) {
        u64 v[words + 1], u[words + 1];
        memset(v, 0, sizeof v); memset(u, 0, sizeof u);
        u32 n = 0;
        for (; n < bytes; n++) {
            int c = fgetc(f);
            if (c == EOF) break;
            ((u8 *)v)[bytes - 1 - n] = (u8)c;
        }
        if (!n) break;
        got += n;
        if (s->width % 64) v[words - 1] &= low_ones(s->width % 64);
        k_write(sig, 0, (u32)(at - low), 0, s->width, v, u);
        if (n < bytes) break;
    }
    return got;
}

/* ---- $fscanf and $sscanf (17.2.4.3) ---- */

typedef struct { FILE *file; const char *text; size_t at, size; } Source;
static int next_char(Source *s) { return s->file ? fgetc(s->file) : s->at < s->size ? (u8)s->text[s->at++] : EOF; }
static void push_back(Source *s, int c) { if (c == EOF) return; if (s->file) ungetc(c, s->file); else s->at--; }
static void skip_blanks(Source *s) { int c; do c = next_char(s); while (c != EOF && isspace(c)); push_back(s, c); }
enum { WORD = 1 << 12 };

/* The characters of one item; 0 if none fits. */
static size_t item(Source *s, const char *allowed, size_t most, char *out) {
    size_t n = 0;
    while (n < most && n + 1 < WORD) {
        int c = next_char(s);
        if (c == EOF) break;
        if (allowed ? !strchr(allowed, c) || !c : isspace(c)) { push_back(s, c); break; }
        out[n++] = (char)c;
    }
    out[n] = 0;
    return n;
}
static void put_digits(u32 sig, const char *text, size_t n, u32 bits) {
    const Sig *s = &K.sigs[sig];
    u32 words = words_of(s->width);
    u64 v[words + 1], u[words + 1], ones = low_ones(bits);
    memset(v, 0, sizeof v); memset(u, 0, sizeof u);
    for (size_t i = 0; i < n; i++) {
        int c = tolower((u8)text[i]);
        u64 dv, du = 0;
        if (c == '_') continue;
        if (c == 'x') dv = du = ones;
        else if (c == 'z' || c == '?') { dv = 0; du = ones; }
        else dv = (u64)(c <= '9' ? c - '0' : c - 'a' + 10) & ones;
        for (u32 w = words; w-- > 0;) {
            v[w] = v[w] << bits | (w ? v[w - 1] >> (64 - bits) : dv);
            u[w] = u[w] << bits | (w ? u[w - 1] >> (64 - bits) : du);
        }
    }
    if (s->width % 64) { v[words - 1] &= low_ones(s->width % 64); u[words - 1] &= low_ones(s->width % 64); }
    k_write(sig, 0, 0, 0, s->width, v, u);
}
static void put_all_unknown(u32 sig, int z) {
    const Sig *s = &K.sigs[sig];
    u32 words = words_of(s->width);
    u64 v[words + 1], u[words + 1];
    for (u32 i = 0; i < words; i++) { u[i] = i + 1 == words && s->width % 64 ? low_ones(s->width % 64) : ~0ULL; v[i] = z ? 0 : u[i]; }
    k_write(sig, 0, 0, 0, s->width, v, u);
}
/* One conversion into a variable (~0: read and dropped); 1 if it matched, -1 at the end of the input. */
static int convert(Source *s, char kind, size_t most, u32 sig, int unit) {
    char word[WORD];
    int c;
    if (kind != 'c') skip_blanks(s);
    c = next_char(s);
    if (c == EOF) return -1;
    push_back(s, c);
    if (kind == 'c') { c = next_char(s); if (sig != ~0u) put_number(sig, 0, c); return 1; }
    if (kind == 's') {
        size_t n = item(s, 0, most, word);
        if (n && sig != ~0u) put_text(sig, 0, word, n);
        return n > 0;
    }
    if (kind == 'd') {
        c = next_char(s);
        int negative = c == '-';
        if (c != '-' && c != '+') push_back(s, c);
        size_t n = item(s, "0123456789_", most, word), k = 0;
        if (!n) {
            c = next_char(s);
            if (c != EOF && strchr("xXzZ?", c)) { if (sig != ~0u) put_all_unknown(sig, strchr("zZ?", c) != 0); return 1; }
            push_back(s, c);
            return 0;
        }
        for (size_t i = 0; i < n; i++) if (word[i] != '_') word[k++] = word[i];
        word[k] = 0;
        i64 x = (i64)strtoull(word, 0, 10);
        if (sig != ~0u) put_number(sig, 0, negative ? -x : x);
        return 1;
    }
    if (strchr("efgt", kind)) {
        size_t n = item(s, "0123456789+-.eE", most, word);
        if (!n) return 0;
        double d = strtod(word, 0);
        if (sig == ~0u) return 1;
        if (kind == 't') { for (int i = K.time_unit == 99 ? unit : K.time_unit; i < unit; i++) d /= 10; for (int i = unit; i < (K.time_unit == 99 ? unit : K.time_unit); i++) d *= 10; }
        if (K.sigs[sig].flags & FLAG_REAL) { u64 v[2] = {0, 0}, u[2] = {0, 0}; memcpy(v, &d, 8); k_write(sig, 0, 0, 0, 64, v, u); }
        else put_number(sig, 0, (i64)(d < 0 ? d - 0.5 : d + 0.5));
        return 1;
    }
    u32 bits = kind == 'b' ? 1 : kind == 'o' ? 3 : 4;
    size_t n = item(s, bits == 1 ? "01xXzZ?_" : bits == 3 ? "01234567xXzZ?_" : "0123456789abcdefABCDEFxXzZ?_", most, word);
    if (!n) return 0;
    if (sig != ~0u) put_digits(sig, word, n, bits);
    return 1;
}
static u32 scan(Source *s, const char *f, const u32 *sigs, u32 count, int unit) {
    u32 done = 0, next = 0;
    for (; *f; f++) {
        if (isspace((u8)*f)) { skip_blanks(s); continue; }
        if (*f != '%') {
            int c = next_char(s);
            if (c == (u8)*f) continue;
            push_back(s, c);
            return c == EOF && !done ? ~0u : done;
        }
        f++;
        int drop = *f == '*';
        if (drop) f++;
        size_t most = 0;
        while (isdigit((u8)*f)) most = most * 10 + (size_t)(*f++ - '0');
        if (!most) most = WORD;
        char kind = (char)tolower((u8)*f);
        if (kind == 'x') kind = 'h';
        if (kind == '%') {
            skip_blanks(s);
            int c = next_char(s);
            if (c == '%') continue;
            push_back(s, c);
            return done;
        }
        if (!kind || !strchr("bodhcsefgt", kind)) return done;
        if (!drop && next == count) return done;
        int got = convert(s, kind, most, drop ? ~0u : sigs[next], unit);
        if (got < 0 && !done) return ~0u;
        if (got <= 0) return done;
        if (!drop) { next++; done++; }
    }
    return done;
}
u32 k_fscanf(u32 file, const Arg *format, const u32 *sigs, u32 count, int unit) {
    char f[WORD];
    text_of(format, f, sizeof f);
    Source s = {file_of(file), 0, 0, 0};
    return s.file ? scan(&s, f, sigs, count, unit) : ~0u;
}
u32 k_sscanf(const Arg *text, const Arg *format, const u32 *sigs, u32 count, int unit) {
    char f[WORD], *t = malloc(text->width / 8 + 2);
    text_of(format, f, sizeof f);
    text_of(text, t, text->width / 8 + 2);
    Source s = {0, t, 0, strlen(t)};
    u32 done = scan(&s, f, sigs, count, unit);
    free(t);
    return done;
}

/* ---- $writememb and $writememh ---- */

static void write_word(FILE *f, const Sig *s, u64 element, u32 bits) {
    const u8 *p = K.mem + s->offset + element * s->bytes * s->planes, *q = p + s->bytes;
    for (u32 d = (s->width + bits - 1) / bits; d-- > 0;) {
        u32 v = 0, u = 0, ones = 0;
        for (u32 k = 0; k < bits && d * bits + k < s->width; k++) {
            u32 b = d * bits + k;
            v |= (u32)(p[b / 8] >> b % 8 & 1) << k;
            if (s->planes > 1) u |= (u32)(q[b / 8] >> b % 8 & 1) << k;
            ones |= 1u << k;
        }
        fputc(!u ? "0123456789abcdef"[v] : u == ones && !v ? 'z' : u == ones && v == ones ? 'x' : v & u ? 'X' : 'Z', f);
    }
    fputc('\n', f);
}

void k_writemem(u32 sig, u32 site, u32 bits, const Arg *args, u32 count, i64 first, i64 last, u32 row) {
    const Sig *s = &K.sigs[sig];
    char path[PATH_MAX];
    text_of(&args[0], path, sizeof path);
    FILE *f = file_allowed(path, 1) ? fopen(file_at(path), "w") : 0;
    if (!f) {
        char text[PATH_MAX + 120];
        snprintf(text, sizeof text, "$writemem%c: '%s' can't be written (%s)", bits == 4 ? 'h' : 'b', path,
                 file_allowed(path, 1) ? strerror(errno) : "it lies outside the project folder");
        say("warning", site, text);
        return;
    }
    i64 low = first < last ? first : last, high = first < last ? last : first;
    i64 at = count > 1 ? (i64)(int)*(u64 *)args[1].val : low, end = count > 2 ? (i64)(int)*(u64 *)args[2].val : high;
    i64 step = end < at ? -1 : 1;
    if (count > 1) fprintf(f, "@%llx\n", (unsigned long long)at);
    for (;; at += step) {
        if (at < low || at > high) break;
        for (u32 column = 0; column < row; column++) write_word(f, s, (u64)(at - low) * row + column, bits);
        if (at == end) break;
    }
    fclose(f);
}
