/* Text of values and values of text (IEEE 1076-2008 5.7, 16.2.2, 16.4): images, std.textio. */
#include <ctype.h>
#include <errno.h>
#include <math.h>
#include "typed.h"

#define VEC(x) const u8 *x, i64 x##l, i64 x##r, i64 x##d
#define LEN(x) vec_length(x##l, x##r, x##d)

static void text(Vec *out, const char *s, size_t n) {
    u8 *p = arena(n ? n : 1);
    memcpy(p, s, n);
    *out = (Vec){p, 1, (i64)n, 0};
}
void v_image_integer(Vec *out, i64 value) {
    char s[32];
    text(out, s, (size_t)snprintf(s, sizeof s, "%lld", (long long)value));
}
/* `table`: for each literal the offset of its text, and behind the last one the end. */
void v_image_enum(Vec *out, const u32 *table, const char *names, i64 value) { text(out, names + table[value], table[value + 1] - table[value]); }
/* digits 0: as a literal with an exponent, exact; else fixed. */
void x_real_image(Vec *out, double value, i64 digits) {
    char s[512];
    int n;
    if (digits) n = snprintf(s, sizeof s, "%.*f", (int)digits, value);
    else {
        n = snprintf(s, sizeof s, "%.15e", value);
        char *e = strchr(s, 'e');
        if (e) {                        /* 1.500000000000000e+01 becomes 1.500000000000000e+01 without a padded exponent */
            int power = atoi(e + 1);
            n = (int)(e - s) + snprintf(e, sizeof s - (size_t)(e - s), "e%+03d", power);
        }
    }
    text(out, s, (size_t)n);
}
void x_real_format(Vec *out, double value, VEC(f)) {
    char format[64], s[512];
    i64 n = LEN(f);
    if (n < 1 || n > 60) { x_real_image(out, value, 0); return; }
    memcpy(format, f, (size_t)n);
    format[n] = 0;
    char *percent = strchr(format, '%');
    if (!percent || strchr(percent + 1, '%') || !strchr("aAeEfFgG", format[n - 1]) || strspn(percent + 1, "0123456789.+- #aAeEfFgG") != strlen(percent + 1)) {
        v_stop(0, "'%s' is no format for a real: it is like %%8.3f", format);
        return;
    }
    text(out, s, (size_t)snprintf(s, sizeof s, format, value));
}
static const char *UNITS[] = {"fs", "ps", "ns", "us", "ms", "sec", "min", "hr"};
static const i64 FACTORS[] = {1, 1000, 1000000, 1000000000, 1000000000000, 1000000000000000, 60000000000000000, 3600000000000000000};
/* A time in multiples of a unit. */
void x_time_image(Vec *out, i64 value, i64 unit) {
    const char *name = "";
    for (int i = 0; i < 8; i++) if (FACTORS[i] == unit) name = UNITS[i];
    char s[64];
    int n;
    i64 whole = value / unit, rest = value % unit;
    if (!rest) n = snprintf(s, sizeof s, "%lld %s", (long long)whole, name);
    else {
        n = snprintf(s, sizeof s, "%s%lld.", value < 0 && !whole ? "-" : "", (long long)whole);
        if (rest < 0) rest = -rest;
        for (i64 part = unit / 10; rest && part >= 1 && n < 50; part /= 10) { s[n++] = (char)('0' + rest / part); rest %= part; }
        n += snprintf(s + n, sizeof s - (size_t)n, " %s", name);
    }
    text(out, s, (size_t)n);
}
/* A physical value in its primary unit. */
void v_image_physical(Vec *out, i64 value, const char *unit) {
    char s[96];
    text(out, s, (size_t)snprintf(s, sizeof s, "%lld %s", (long long)value, unit));
}
/* An array of characters: the position is the code; of other enumerations: through the table, without the apostrophes. */
void v_to_string(Vec *out, const u8 *p, i64 n, const u32 *table, const char *names) {
    u8 *s = arena((u64)(n > 0 ? n : 1));
    for (i64 i = 0; i < n; i++) s[i] = (u8)names[table[p[i]] + 1];
    *out = (Vec){s, 1, n, 0};
}
/* Hexadecimal or octal digits of nine-valued vectors; bits: 4 or 3. fill: what stands before the first bit (2: '0', else the sign). */
void x_digits(Vec *out, VEC(a), i64 bits, i64 is_signed, i64 nine) {
    static const char CHARS[] = "UX01ZWLH-";
    i64 n = LEN(a), count = (n + bits - 1) / bits;
    u8 *s = arena((u64)(count > 0 ? count : 1));
    for (i64 k = 0; k < count; k++) {
        int value = 0, all_z = 1, known = 1;
        for (i64 b = 0; b < bits; b++) {
            i64 at = n - (count - k) * bits + b;
            u8 v = at >= 0 ? (nine ? a[at] : a[at] + 2) : is_signed ? (nine ? a[0] : a[0] + 2) : 2;
            if (at < 0 && !is_signed && nine && a[0] == 4) v = 4;
            if (v != 4) all_z = 0;
            if (!(v & 2) || v == 8) known = 0;
            value = value << 1 | (v & 1);
        }
        (void)CHARS;
        s[k] = (u8)(known ? "0123456789ABCDEF"[value] : all_z ? 'Z' : 'X');
    }
    *out = (Vec){s, 1, count, 0};
}

/* ---- values of text ---- */

static void trimmed(const u8 **p, i64 *n) {
    while (*n && isspace(**p)) { (*p)++; (*n)--; }
    while (*n && isspace((*p)[*n - 1])) (*n)--;
}
/* An abstract literal with or without a sign, decimal or based (15.5): how many characters it takes, 0 if none is there; its value in
 * `whole`, or with a point in `real`. */
static i64 number_of(const u8 *p, i64 n, int point, i64 *whole, double *real) {
    i64 i = 0, v = 0;
    int minus = n && p[0] == '-', base = 10;
    double r = 0, scale = 1;
    if (n && (p[0] == '-' || p[0] == '+')) i++;
    i64 first = i;
    for (; i < n && (isdigit(p[i]) || (p[i] == '_' && i > first)); i++) if (p[i] != '_') { v = (i64)((u64)v * 10 + (u64)(p[i] - '0')); r = r * 10 + (p[i] - '0'); }
    if (i == first) return 0;
    i64 end = i;                                                     /* of what is a number so far */
    int based = i + 1 < n && p[i] == '#' && v >= 2 && v <= 16 && isxdigit(p[i + 1]);
    if (based) { base = (int)v; i++; v = 0; r = 0; }
    int fraction = 0;
    for (i64 j = based ? i : n; j < n && (isxdigit(p[j]) || p[j] == '_'); i = ++j) {
        if (p[j] == '_') continue;
        int digit = isdigit(p[j]) ? p[j] - '0' : tolower(p[j]) - 'a' + 10;
        if (digit >= base) return 0;
        v = (i64)((u64)v * (u64)base + (u64)digit); r = r * base + digit;
    }
    if (point && i + 1 < n && p[i] == '.' && isxdigit(p[i + 1])) {
        fraction = 1;
        for (i++; i < n && (p[i] == '_' || (based ? isxdigit(p[i]) : isdigit(p[i]))); i++) {
            if (p[i] == '_') continue;
            int digit = isdigit(p[i]) ? p[i] - '0' : tolower(p[i]) - 'a' + 10;
            if (digit >= base) return 0;
            r = r * base + digit; scale *= base;
        }
        end = i;
    }
    if (based) {
        if (i >= n || p[i] != '#') return 0;
        end = ++i;
    }
    if (point && !fraction) return 0;
    if (i < n && (p[i] == 'e' || p[i] == 'E')) {
        i64 j = i + 1, power = 0;
        int down = j < n && p[j] == '-';
        if (j < n && (p[j] == '+' || down)) j++;
        if (j < n && isdigit(p[j]) && (point || !down)) {
            for (; j < n && (isdigit(p[j]) || p[j] == '_'); j++) if (p[j] != '_' && power < 10000) power = power * 10 + (p[j] - '0');
            end = j;
            for (i64 k = 0; k < power && !point; k++) v = (i64)((u64)v * (u64)base);
            if (point) { double by = pow(base, (double)power); if (down) scale *= by; else r *= by; }
        }
    }
    *whole = minus ? -v : v;
    *real = minus ? -(r / scale) : r / scale;
    return end;
}
i64 v_value_integer(VEC(a), u32 site) {
    i64 n = LEN(a), whole;
    double real;
    const u8 *p = a;
    trimmed(&p, &n);
    if (!n || number_of(p, n, 0, &whole, &real) != n) v_stop(site, "\"%.*s\" is no integer", (int)(LEN(a) < 100 ? LEN(a) : 100), a);
    return whole;
}
/* A decimal one is read by the C library, which rounds to the nearest. */
static double real_of(const u8 *p, i64 n, double based) {
    char s[128];
    int k = 0;
    for (i64 i = 0; i < n && k < 120; i++) { if (p[i] == '#') return based; if (p[i] != '_') s[k++] = (char)p[i]; }
    s[k] = 0;
    return strtod(s, 0);
}
double v_value_real(VEC(a), u32 site) {
    i64 n = LEN(a), whole;
    double real;
    const u8 *p = a;
    trimmed(&p, &n);
    if (!n || (number_of(p, n, 1, &whole, &real) != n && number_of(p, n, 0, &whole, &real) != n))
        v_stop(site, "\"%.*s\" is no real number", (int)(LEN(a) < 100 ? LEN(a) : 100), a);
    return real_of(p, n, real);
}
static int same_word(const u8 *p, const char *name, size_t n) {
    if (name[0] == '\'') return !memcmp(p, name, n);
    for (size_t i = 0; i < n; i++) if (tolower(p[i]) != tolower((u8)name[i])) return 0;
    return 1;
}
i64 v_value_enum(VEC(a), const u32 *table, const char *names, i64 count, u32 site) {
    i64 n = LEN(a);
    const u8 *p = a;
    trimmed(&p, &n);
    for (i64 i = 0; i < count; i++)
        if (table[i + 1] - table[i] == (u32)n && same_word(p, names + table[i], (size_t)n)) return i;
    v_stop(site, "\"%.*s\" is no value of this type", (int)(n < 100 ? n : 100), p);
    return 0;
}
i64 v_value_physical(VEC(a), const char *const *names, const i64 *factors, i64 count, u32 site) {
    i64 n = LEN(a);
    const u8 *p = a;
    trimmed(&p, &n);
    char s[128], *end;
    int k = 0;
    for (i64 i = 0; i < n && k < 120; i++) s[k++] = (char)p[i];
    s[k] = 0;
    double v = strtod(s, &end);
    while (isspace((u8)*end)) end++;
    for (i64 i = 0; i < count; i++)
        if (!strcasecmp(end, names[i])) return (i64)llround((end == s ? 1 : v) * (double)factors[i]);
    v_stop(site, "\"%s\" is no value with a unit of this type", s);
    return 0;
}

/* ---- objects of access types; arrays without fixed bounds have their bounds before the data ---- */

u8 *v_new(u64 size) {
    u8 *p = calloc(1, size ? size : 1);
    if (!p) k_stop(ENDED_ERROR, 0, "out of memory for the objects of access types");
    return p;
}
void v_free(u8 *p) { free(p); }
void v_null(u32 site) { v_stop(site, "this access value is null: it points to nothing"); }

/* ---- lines (16.4): an access value to a string ---- */

typedef struct { i64 left, right, down; u8 data[]; } Line;
static i64 line_size(const Line *l) { return l ? vec_length(l->left, l->right, l->down) : 0; }
static Line *line_of(const u8 *data, i64 n) {
    Line *l = (Line *)v_new(sizeof *l + (u64)n);
    l->left = 1; l->right = n;
    memcpy(l->data, data, (size_t)n);
    return l;
}
/* justified: 0 right, 1 left */
void x_write(Line **l, VEC(a), i64 justified, i64 field) {
    i64 n = LEN(a), old = line_size(*l), width = field > n ? field : n;
    Line *fresh = (Line *)v_new(sizeof *fresh + (u64)(old + width));
    fresh->left = 1; fresh->right = old + width;
    if (old) memcpy(fresh->data, (*l)->data, (size_t)old);
    memset(fresh->data + old, ' ', (size_t)width);
    memcpy(fresh->data + old + (justified ? 0 : width - n), a, (size_t)n);
    free(*l);
    *l = fresh;
}
static void eat(Line **l, i64 count) {
    i64 n = line_size(*l);
    Line *fresh = line_of((*l)->data + count, n - count);
    free(*l);
    *l = fresh;
}
static i64 blank(const u8 *p, i64 n) { i64 i = 0; while (i < n && (p[i] == ' ' || p[i] == '\t' || p[i] == 0xa0)) i++; return i; }

void x_read_char(Line **l, u8 *value, u8 *good) {
    *good = line_size(*l) > 0;
    if (!*good) return;
    *value = (*l)->data[0];
    eat(l, 1);
}
void x_read_string(Line **l, u8 *v, i64 vl, i64 vr, i64 vd, u8 *good) {
    i64 n = vec_length(vl, vr, vd);
    *good = line_size(*l) >= n;
    if (!*good) return;
    if (n) { memcpy(v, (*l)->data, (size_t)n); eat(l, n); }
}
/* sread: a word; the rest of the value is filled with blanks. */
void x_read_word(Line **l, u8 *v, i64 vl, i64 vr, i64 vd, int32_t *length) {
    i64 n = vec_length(vl, vr, vd), have = line_size(*l), at = have ? blank((*l)->data, have) : 0, k = 0;
    while (at + k < have && k < n && !isspace((*l)->data[at + k])) k++;
    memset(v, ' ', (size_t)n);
    if (k) memcpy(v, (*l)->data + at, (size_t)k);
    *length = (int32_t)k;
    if (have && at + k) eat(l, at + k);
}
void x_read_integer(Line **l, int32_t *value, u8 *good) {
    i64 have = line_size(*l), at = have ? blank((*l)->data, have) : 0, v = 0;
    double real;
    i64 n = have ? number_of((*l)->data + at, have - at, 0, &v, &real) : 0;
    *good = n > 0 && v >= INT32_MIN && v <= INT32_MAX;
    if (!*good) return;
    *value = (int32_t)v;
    eat(l, at + n);
}
void x_read_real(Line **l, double *value, u8 *good) {
    i64 have = line_size(*l), at = have ? blank((*l)->data, have) : 0, whole;
    double real;
    i64 n = have ? number_of((*l)->data + at, have - at, 1, &whole, &real) : 0;
    *good = n > 0;
    if (!n) return;
    *value = real_of((*l)->data + at, n, real);
    eat(l, at + n);
}
void x_read_time(Line **l, i64 *value, u8 *good) {
    i64 have = line_size(*l), at = have ? blank((*l)->data, have) : 0, whole;
    double real;
    const u8 *p = have ? (*l)->data + at : 0;
    i64 n = have ? number_of(p, have - at, 1, &whole, &real) : 0;
    if (!n && have) n = number_of(p, have - at, 0, &whole, &real);
    *good = 0;
    if (!n) return;
    double v = real_of(p, n, real);
    i64 k = n + blank(p + n, have - at - n), end = k;
    while (end < have - at && isalpha(p[end])) end++;
    for (int i = 0; i < 8; i++)
        if ((i64)strlen(UNITS[i]) == end - k && !strncasecmp((const char *)p + k, UNITS[i], (size_t)(end - k))) {
            *value = (i64)llroundl((long double)v * (long double)FACTORS[i]);
            *good = 1;
            eat(l, at + end);
            return;
        }
}
/* false or true */
void x_read_boolean(Line **l, u8 *value, u8 *good) {
    i64 have = line_size(*l), at = have ? blank((*l)->data, have) : 0, k = at;
    *good = 0;
    while (k < have && isalpha((*l)->data[k])) k++;
    if (k - at == 4 && same_word((*l)->data + at, "true", 4)) *value = 1;
    else if (k - at == 5 && same_word((*l)->data + at, "false", 5)) *value = 0;
    else return;
    *good = 1;
    eat(l, k);
}
/* Characters of an enumeration: chars is its literals in order; blanks before are passed over, '_' inside. */
void x_read_chars(Line **l, u8 *v, i64 vl, i64 vr, i64 vd, VEC(chars), u8 *good) {
    i64 n = vec_length(vl, vr, vd), have = line_size(*l), at = have ? blank((*l)->data, have) : 0, k = at;
    *good = 0;
    i64 set = LEN(chars);
    u8 *found = arena((u64)n + 1);
    for (i64 i = 0; i < n; i++) {
        if (i && k < have && (*l)->data[k] == '_') k++;
        if (k >= have) return;
        u8 c = (*l)->data[k];
        const u8 *hit = memchr(chars, c, (size_t)set);
        if (!hit) return;
        found[i] = (u8)(hit - chars);
        k++;
    }
    memcpy(v, found, (size_t)n);
    *good = 1;
    eat(l, k);
}
/* Hexadecimal (4) or octal (3) digits into nine values (nine 1) or bits. */
void x_read_digits(Line **l, u8 *v, i64 vl, i64 vr, i64 vd, i64 bits, i64 nine, u8 *good) {
    i64 n = vec_length(vl, vr, vd), count = (n + bits - 1) / bits, have = line_size(*l), at = have ? blank((*l)->data, have) : 0, k = at;
    *good = 0;
    u8 *found = arena((u64)(count * bits) + 1);
    for (i64 i = 0; i < count; i++) {
        if (i && k < have && (*l)->data[k] == '_') k++;
        if (k >= have) return;
        int c = toupper((*l)->data[k++]);
        if (nine && (c == 'X' || c == 'Z' || c == 'U' || c == 'W' || c == 'H' || c == 'L' || c == '-')) {
            u8 m = (u8)(strchr("UX01ZWLH-", c) - "UX01ZWLH-");
            memset(found + i * bits, m, (size_t)bits);
            continue;
        }
        int d = isdigit(c) ? c - '0' : c >= 'A' && c <= 'F' ? c - 'A' + 10 : 99;
        if (d >= 1 << bits) return;
        for (i64 b = 0; b < bits; b++) found[i * bits + b] = (u8)((nine ? 2 : 0) + (d >> (bits - 1 - b) & 1));
    }
    for (i64 i = 0; i < count * bits - n; i++) if (found[i] == (nine ? 3 : 1)) return;
    memcpy(v, found + count * bits - n, (size_t)n);
    *good = 1;
    eat(l, k);
}

/* ---- files (5.5): a number in a cell; 1 input, 2 output ---- */

typedef struct { FILE *f; int writing, used; } File;
static File opened[1024]; static i64 open_count = 3;

static i64 open_file(const char *path, i64 mode, i64 *status) {
    if (!strcmp(path, "STD_INPUT")) { *status = 0; return 1; }
    if (!strcmp(path, "STD_OUTPUT")) { *status = 0; return 2; }
    if (!file_allowed(path, mode != 0)) { *status = 2; return -1; }
    FILE *f = fopen(file_at(path), mode == 0 ? "r" : mode == 1 ? "w" : "a");
    if (!f) { *status = errno == EACCES ? 3 : 2; return 0; }
    i64 n = 3;
    while (n < open_count && opened[n].used) n++;
    if (n == 1024) { fclose(f); *status = 1; return 0; }
    if (n == open_count) open_count++;
    opened[n] = (File){f, mode != 0, 1};
    *status = 0;
    return n;
}
static char *path_of(VEC(a)) {
    i64 n = LEN(a);
    char *path = (char *)arena((u64)n + 1);
    memcpy(path, a, (size_t)n);
    path[n] = 0;
    return path;
}
void file_open(i64 *cell, VEC(a), i64 mode, u32 site) {
    i64 status;
    char *path = path_of(a, al, ar, ad);
    if (*cell) v_stop(site, "this file is open already");
    i64 n = open_file(path, mode, &status);
    if (n == -1) v_stop(site, "the file '%s' lies outside of the project folder; --allow-files permits it", path);
    if (!n) v_stop(site, "the file '%s' can't be opened for %s", path, mode ? "writing" : "reading");
    *cell = n;
}
void file_open_status(u8 *status, i64 *cell, VEC(a), i64 mode, u32 site) {
    (void)site;
    i64 code;
    if (*cell) { *status = 1; return; }
    i64 n = open_file(path_of(a, al, ar, ad), mode, &code);
    *status = (u8)code;
    if (n > 0) *cell = n;
}
void file_close(i64 *cell, u32 site) {
    (void)site;
    if (*cell > 2) { fclose(opened[*cell].f); opened[*cell].used = 0; }
    *cell = 0;
}
void file_flush(i64 *cell, u32 site) { (void)site; if (*cell == 2) out_flush(); else if (*cell > 2) fflush(opened[*cell].f); }
static FILE *reading(i64 n, u32 site) {
    if (n == 1) return stdin;
    if (n < 3) v_stop(site, "this file is not open for reading");
    if (opened[n].writing) v_stop(site, "this file is open for writing: it can't be read");
    return opened[n].f;
}
i64 endfile(i64 *cell, u32 site) {
    FILE *f = reading(*cell, site);
    int c = getc(f);
    if (c == EOF) return 1;
    ungetc(c, f);
    return 0;
}
void file_read(i64 *cell, u8 *value, u64 size, u32 site) {
    if (fread(value, 1, size, reading(*cell, site)) != size) v_stop(site, "the file is at its end: there is nothing to read");
}
static void put_bytes(i64 n, const u8 *data, size_t size, u32 site) {
    if (n == 2) { out_bytes(1, (const char *)data, size); return; }
    if (n < 3) v_stop(site, "this file is not open for writing");
    if (!opened[n].writing) v_stop(site, "this file is open for reading: it can't be written");
    fwrite(data, 1, size, opened[n].f);
}
void file_write(i64 *cell, const u8 *value, u64 size, u32 site) { put_bytes(*cell, value, size, site); }
/* Arrays of any length: the length, then the elements. */
void file_write_array(i64 *cell, const u8 *value, i64 count, u64 size, u32 site) {
    put_bytes(*cell, (const u8 *)&count, 8, site);
    put_bytes(*cell, value, (u64)count * size, site);
}
i64 file_read_array(i64 *cell, u8 *value, i64 room, u64 size, u32 site) {
    i64 count;
    FILE *f = reading(*cell, site);
    if (fread(&count, 1, 8, f) != 8) v_stop(site, "the file is at its end: there is nothing to read");
    i64 take = count < room ? count : room;
    if (fread(value, size, (size_t)take, f) != (size_t)take) v_stop(site, "the file ends in the middle of an array");
    for (i64 i = take; i < count; i++) fseek(f, (long)size, SEEK_CUR);
    return take;
}
void typed_close_files(void) {
    for (i64 n = 3; n < open_count; n++) if (opened[n].used) { fclose(opened[n].f); opened[n].used = 0; }
}
void x_readline(i64 *cell, Line **l) {
    FILE *f = reading(*cell, 0);
    char *s = 0; size_t room = 0;
    ssize_t n = getline(&s, &room, f);
    if (n < 0) v_stop(0, "the file is at its end: there is no line to read");
    while (n && (s[n - 1] == '\n' || s[n - 1] == '\r')) n--;
    free(*l);
    *l = line_of((u8 *)s, n);
    free(s);
}
void x_writeline(i64 *cell, Line **l) {
    i64 n = line_size(*l);
    u8 *s = arena((u64)n + 1);
    if (n) memcpy(s, (*l)->data, (size_t)n);
    s[n] = '\n';
    put_bytes(*cell, s, (size_t)n + 1, 0);
    if (*cell == 2) out_flush();
    free(*l);
    *l = line_of(s, 0);
}

/* ---- messages and the end (10.3, 16.5) ---- */

static int stop_at = 3;
void v_report(u32 severity, u32 site, const u8 *p, i64 n, u32 assertion) {
    static const char *NAMES[] = {"note", "warning", "error", "failure"};
    char *s = (char *)arena((u64)n + 64);
    if (n < 0) { strcpy(s, "Assertion violation."); } else { memcpy(s, p, (size_t)n); s[n] = 0; }
    (void)assertion;
    if (severity >= 2) K.exit_status = 1;
    if ((int)severity >= stop_at) { out_flush(); v_stop(site, "%s: %s", NAMES[severity], s); }
    say(NAMES[severity], site, s);
    VS->top = (u8 *)s;      /* the compiler has been told that this changes nothing */
}
void x_env_stop(i64 status) { (void)status; k_finish(ENDED_STOP, 0); }
void x_env_finish(i64 status) { if (status) K.exit_status = (int)status; k_finish(ENDED_FINISH, 0); }
i64 x_env_resolution(void) { return 1; }
void v_bounds(u32 site, i64 index, i64 left, i64 right, i64 down, const char *name) {
    v_stop(site, "index %lld is outside of %s%s%s, which is %lld %s %lld", (long long)index, *name ? "'" : "the array", name, *name ? "'" : "", (long long)left, down ? "downto" : "to", (long long)right);
}
void v_range(u32 site, i64 value, i64 low, i64 high, const char *name) {
    v_stop(site, "the value %lld is outside of %s, whose range is %lld to %lld", (long long)value, name, (long long)low, (long long)high);
}
void v_range_enum(u32 site, i64 value, i64 low, i64 high, const char *name, const u32 *table, const char *names) {
    v_stop(site, "the value %.*s is outside of %s, whose range is %.*s to %.*s", (int)(table[value + 1] - table[value]), names + table[value], name,
           (int)(table[low + 1] - table[low]), names + table[low], (int)(table[high + 1] - table[high]), names + table[high]);
}
void v_range_real(u32 site, double value, double low, double high, const char *name) {
    v_stop(site, "the value %g is outside of %s, whose range is %g to %g", value, name, low, high);
}
void v_overflow(u32 site, const char *name) { v_stop(site, "the result is no value of %s, which has 64 bits", name); }
void v_length(u32 site, i64 have, i64 want) {
    v_stop(site, "the value has %lld elements, what it is for has %lld", (long long)have, (long long)want);
}
void v_zero_division(u32 site) { v_stop(site, "division by zero"); }
void v_exponent(u32 site) { v_stop(site, "an integer can't be raised to a negative power"); }
void v_no_return(u32 site) { v_stop(site, "this function came to its end without 'return'"); }
void v_no_choice(u32 site) { v_stop(site, "no choice of this case fits the value"); }
void v_direction(u32 site) { v_stop(site, "this slice goes in the other direction than its array"); }
void v_deep(u32 site) { v_stop(site, "a subprogram calls itself without end (20000 calls deep)"); }
i64 v_power(i64 x, i64 n, u32 site) {
    if (n < 0) { if (x == 1) return 1; if (x == -1) return n & 1 ? -1 : 1; v_exponent(site); }
    i64 v = 1;
    while (n) { if (n & 1) { if (__builtin_mul_overflow(v, x, &v)) return INT64_MAX; } n >>= 1; if (n && __builtin_mul_overflow(x, x, &x)) { x = INT64_MAX; } }
    return v;
}
double v_power_real(double x, i64 n) { return pow(x, (double)n); }
/* math_real */
double x_math(i64 what, double x, double y) {
    switch (what) {
    case 0: return sqrt(x); case 1: return cbrt(x); case 2: return pow(x, y); case 3: return exp(x); case 4: return log(x); case 5: return log2(x);
    case 6: return log10(x); case 7: return sin(x); case 8: return cos(x); case 9: return tan(x); case 10: return asin(x); case 11: return acos(x);
    case 12: return atan(x); case 13: return atan2(x, y); case 14: return sinh(x); case 15: return cosh(x); case 16: return tanh(x);
    case 17: return asinh(x); case 18: return acosh(x); case 19: return atanh(x); case 20: return floor(x); case 21: return ceil(x);
    case 22: return round(x); case 23: return trunc(x);
    case 24: return log(x) / log(y);
    }
    return 0;
}
