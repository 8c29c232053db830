/* Extended value change dumps of ports, which tell what drives a port from inside and what from outside, and how strongly
 * (IEEE 1364-2005 18.3, 18.4). engine/dump_ports.py writes the header and says what drives each bit; here is what follows. */
#include "kernel.h"

typedef struct { u32 kind, number, bit, strength; } Source;     /* kind 0: bit of a driver; 1: bit of a signal, as strong as said */
typedef struct { u32 signal, bit, first, inside, outside; } Bit;   /* what it is of the net itself; the sources inside, then those outside */
typedef struct { u32 first, width; char direction; char *said; } Port;
typedef struct {
    FILE *file;
    char *name;
    Source *sources; Bit *bits; Port *ports;
    u32 count, wanted, on;
    u64 most;
} Ports;
enum { NOTHING, START, OFF, ON, ALL };
static Ports *files; static u32 file_count;
static void (*sink)(u32 inst, const char *request); static int waiting;
static u64 asked_at; static u32 asked; static char **names;    /* how many calls there were, when, for which files */

void k_ports_sink(void (*to)(u32, const char *)) { sink = to; }

/* $dumpports: the scopes, one a line, and the file. All are asked for at one time (18.3.1). */
void k_ports(u32 inst, const char *scopes, const Arg *file, u32 count, u32 site) {
    if (!sink) return;
    if (asked && asked_at != K.now) { say("warning", site, "$dumpports: all calls have to be at the same time; this one comes later and does nothing (18.3.1)"); return; }
    char name[4096] = "";
    if (count) text_of(file, name, sizeof name);
    if (!name[0]) strcpy(name, "dumpports.vcd");
    for (u32 i = 0; i < asked; i++)
        if (!strcmp(names[i], name)) { say("warning", site, "$dumpports: another call has named this file already (18.3.1)"); return; }
    names = realloc(names, (asked + 1) * sizeof *names);
    names[asked++] = strdup(name);
    asked_at = K.now; waiting = 1;
    char *request = malloc(strlen(name) + strlen(scopes) + 2);
    sprintf(request, "%s\n%s", name, scopes);
    sink(inst, request);
    free(request);
}

/* `rows`: for each port its width and direction, for each of its bits from the left the net and the bit of it, how many sources are inside and
 * outside, then these. */
int k_ports_open(const char *name, const char *header, const u32 *rows, u32 ports, u32 bits, u32 sources) {
    if (!file_allowed(name, 1)) { say("warning", 0, "$dumpports: the file lies outside the project folder; --allow-files permits it"); return 0; }
    FILE *file = fopen(file_at(name), "w");
    if (!file) { say("warning", 0, "$dumpports: the file can't be written"); return 0; }
    fputs(header, file);
    files = realloc(files, (file_count + 1) * sizeof *files);
    Ports *p = &files[file_count++];
    *p = (Ports){file, strdup(name), calloc(sources + 1, sizeof(Source)), calloc(bits + 1, sizeof(Bit)), calloc(ports + 1, sizeof(Port)), ports, START, 1, 0};
    Source *source = p->sources;
    Bit *bit = p->bits;
    for (u32 i = 0; i < ports; i++) {
        p->ports[i] = (Port){(u32)(bit - p->bits), rows[0], (char)rows[1], calloc(1, 3 * rows[0] + 4)};
        rows += 2;
        for (u32 k = p->ports[i].width; k--; bit++) {
            *bit = (Bit){rows[0], rows[1], (u32)(source - p->sources), rows[2], rows[3]};
            u32 n = rows[2] + rows[3];
            memcpy(source, rows + 4, n * sizeof *source);
            source += n;
            rows += 4 + 4 * n;
        }
    }
    return 1;
}

static Range range_of(const Source *s, u32 count) {
    Range r = {0, 0};
    for (; count--; s++) r = combine(r, s->kind ? stored_bit(&K.sigs[s->number], s->bit, s->strength) : driver_bit(&K.drivers[s->number], s->bit), 0);
    return r;
}
enum { LOW, HIGH, UNKNOWN, OFF_ };
static u32 level(Range r) { return !r.low && !r.high ? OFF_ : r.high < 0 ? LOW : r.low > 0 ? HIGH : UNKNOWN; }
static int strong(Range r) { return (-r.low > r.high ? -r.low : r.high) >= 5; }

/* The state of a bit by what drives it from inside (output) and from outside (input); 18.4.3.1 and 18.4.3.2. */
static char state(Range in, Range out, char direction, const Bit *b) {
    u32 i = level(in), o = level(out);
    if (i == OFF_ && o == OFF_) return direction == 'i' ? 'Z' : direction == 'o' ? 'T' : b->inside && b->outside ? 'f' : 'F';
    if (o == OFF_) return "DUN"[i];
    if (i == OFF_) return "LHX"[o];
    if (strong(in) == strong(out)) return "0Aa" "B1b" "Cc?"[3 * i + o];
    return strong(in) ? "duN"[i] : "lhX"[o];
}

/* A port as it is now: states, strengths of 0 and strengths of 1, a character a bit each. */
static void describe(const Ports *f, const Port *p, char *text, int off) {
    char *zero = text + p->width + 1, *one = zero + p->width + 1;
    zero[-1] = one[-1] = ' ';
    one[p->width] = 0;
    for (u32 k = 0; k < p->width; k++) {
        if (off) { text[k] = p->direction == 'i' ? 'N' : p->direction == 'o' ? 'X' : '?'; zero[k] = one[k] = '6'; continue; }
        const Bit *b = &f->bits[p->first + k];
        const Source *s = f->sources + b->first;
        Range out = range_of(s, b->inside), in = range_of(s + b->inside, b->outside), r = combine(in, out, 0);
        if (level(r) == OFF_) {                         /* a switch may bring it */
            r = stored_bit(&K.sigs[b->signal], b->bit, 6);
            if (p->direction != 'i') out = r;
            if (p->direction != 'o') in = r;
        }
        text[k] = state(in, out, p->direction, b);
        zero[k] = (char)('0' + (r.low < 0 ? -r.low : 0));
        one[k] = (char)('0' + (r.high > 0 ? r.high : 0));
    }
}

static void put_all(Ports *f, const char *section, int off) {
    fprintf(f->file, "#%llu\n%s\n", (unsigned long long)K.now, section);
    for (u32 i = 0; i < f->count; i++) {
        describe(f, &f->ports[i], f->ports[i].said, off);
        fprintf(f->file, "p%s <%u\n", f->ports[i].said, i);
    }
    fputs("$end\n", f->file);
}
static void put_changes(Ports *f) {
    int timed = 0;
    for (u32 i = 0; i < f->count; i++) {
        Port *p = &f->ports[i];
        char text[3 * p->width + 4];
        describe(f, p, text, 0);
        if (!strcmp(text, p->said)) continue;
        strcpy(p->said, text);
        if (!timed) fprintf(f->file, "#%llu\n", (unsigned long long)K.now);
        timed = 1;
        fprintf(f->file, "p%s <%u\n", text, i);
    }
}
static void close_ports(Ports *f) {
    fprintf(f->file, "$vcdclose #%llu $end\n", (unsigned long long)K.now);
    fclose(f->file);
    f->file = 0;
}

int dumping_ports(void) { return file_count || asked; }

/* At the end of a moment. */
void ports_moment(void) {
    if (waiting) { waiting = 0; sink(0, ""); }           /* all that was asked for in this moment is known */
    for (u32 n = 0; n < file_count; n++) {
        Ports *f = &files[n];
        if (!f->file) continue;
        if (f->wanted == START) put_all(f, "$dumpports", 0);
        else if (f->wanted == OFF && f->on) { put_all(f, "$dumpportsoff", 1); f->on = 0; }
        else if (f->wanted == ON && !f->on) { put_all(f, "$dumpportson", 0); f->on = 1; }
        else if (f->wanted == ALL && f->on) put_all(f, "$dumpportsall", 0);
        else if (f->on) put_changes(f);
        f->wanted = NOTHING;
        if (f->most && (u64)ftell(f->file) > f->most) {
            fputs("$comment the limit of the file is reached $end\n", f->file);
            close_ports(f);
        }
    }
}

/* What the other tasks do is for one file, or for all if none is named (18.3.2 to 18.3.5). */
static void each(const Arg *file, u32 count, void (*act)(Ports *, u64), u64 value) {
    char name[4200] = "";
    if (count) text_of(file, name, sizeof name);
    for (u32 n = 0; n < file_count; n++) if (files[n].file && (!name[0] || !strcmp(files[n].name, name))) act(&files[n], value);
}
static void want(Ports *f, u64 how) { if (f->wanted != START) f->wanted = (u32)how; }
static void limit(Ports *f, u64 bytes) { f->most = bytes; }
static void flush(Ports *f, u64 unused) { (void)unused; fflush(f->file); }
void k_ports_switch(u32 how, const Arg *file, u32 count) { each(file, count, want, how); }
void k_ports_limit(u64 bytes, const Arg *file, u32 count) { each(file, count, limit, bytes); }
void k_ports_flush(const Arg *file, u32 count) { each(file, count, flush, 0); }
void k_ports_close(void) { for (u32 n = 0; n < file_count; n++) if (files[n].file) close_ports(&files[n]); }
