/* Value change dump files that the program itself asks for (IEEE 1364-2005 18.1). engine/dump.py writes the header; here the
 * changes follow, one section a moment. */
#include "kernel.h"

typedef struct { u32 sig, real; char code[8]; } Var;
static FILE *file;
static Var *vars; static u32 var_count;
static u32 *var_of;                    /* by signal, plus one */
static u32 *changed; static u32 changed_count; static u8 *noted;
enum { NOTHING, START, OFF, ON, ALL, ASKED };
static u32 wanted, on;
static u64 most, last_time;
static int timed;
static void (*open_sink)(u32 inst, const char *request);

void k_dump_sink(void (*sink)(u32, const char *)) { open_sink = sink; }
/* $dumpfile and $dumpvars: which file, and what is to be in it, is worked out outside; see engine/dump.py. */
void k_dump_request(u32 inst, const char *request) { if (open_sink) open_sink(inst, request); }
/* $dumpfile with a name that is made at run time. */
void k_dump_name(u32 inst, const Arg *args) {
    char request[4200] = "file\n";
    text_of(&args[0], request + 5, sizeof request - 5);
    k_dump_request(inst, request);
}

int k_dump_open(const char *path, const char *header, const u32 *sigs, const u8 *real, const char *codes, u32 count) {
    if (!file_allowed(path, 1)) { say("warning", 0, "$dumpvars: the file lies outside the project folder; --allow-files permits it"); return 0; }
    file = fopen(file_at(path), "w");
    if (!file) { say("warning", 0, "$dumpvars: the file can't be written"); return 0; }
    fputs(header, file);
    vars = calloc(count + 1, sizeof *vars);
    var_of = calloc(K.sig_count + 1, sizeof *var_of);
    changed = calloc(count + 1, sizeof *changed);
    noted = calloc(count + 1, 1);
    var_count = count;
    for (u32 i = 0; i < count; i++) {
        vars[i].sig = sigs[i];
        vars[i].real = real[i];
        memcpy(vars[i].code, codes + 8 * i, 8);
        var_of[sigs[i]] = i + 1;
        K.watch[sigs[i]] |= WATCH_DUMP;
    }
    wanted = START; on = 1; changed_count = 0; timed = 0;
    return 1;
}

void dump_changed(u32 sig) {
    u32 i = var_of[sig] - 1;
    if (!noted[i]) { noted[i] = 1; changed[changed_count++] = i; }
}

static void put(const Var *v, int unknown) {
    const Sig *s = &K.sigs[v->sig];
    const u8 *p = K.mem + s->offset, *q = p + s->bytes;
    if (v->real) { double d; memcpy(&d, p, 8); fprintf(file, "r%.16g %s\n", d, v->code); return; }
    char bits[s->width + 2];
    for (u32 i = 0; i < s->width; i++) {
        u32 b = s->width - 1 - i, x = p[b / 8] >> b % 8 & 1, u = s->planes > 1 ? q[b / 8] >> b % 8 & 1 : 0;
        bits[i] = unknown ? 'x' : !u ? (char)('0' + x) : x ? 'x' : 'z';
    }
    bits[s->width] = 0;
    if (s->width == 1) { fprintf(file, "%s%s\n", bits, v->code); return; }
    u32 first = 0;                     /* digits on the left that the reader adds again (table 18-4) */
    while (first + 1 < s->width && bits[first] != '1' && bits[first + 1] == bits[first]) first++;
    if (bits[first] == '0' && bits[first + 1] == '1') first++;
    fprintf(file, "b%s %s\n", bits + first, v->code);
}
static void stamp(void) {
    if (!timed || last_time != K.now) fprintf(file, "#%llu\n", (unsigned long long)K.now);
    timed = 1; last_time = K.now;
}
static void section(const char *name, int unknown) {
    stamp();
    fprintf(file, "%s\n", name);
    for (u32 i = 0; i < var_count; i++) put(&vars[i], unknown);
    fputs("$end\n", file);
}

int dumping(void) { return file || wanted || dumping_ports(); }

/* At the end of a moment. */
void dump_moment(void) {
    if (UNLIKELY(dumping_ports())) ports_moment();
    if (wanted == ASKED) { wanted = NOTHING; open_sink(0, "open"); }     /* all that was asked for in this moment is known */
    if (!file || (!wanted && !changed_count)) return;
    if (wanted == START) section("$dumpvars", 0);
    else if (wanted == OFF && on) { section("$dumpoff", 1); on = 0; }
    else if (wanted == ON && !on) { section("$dumpon", 0); on = 1; }
    else if (wanted == ALL && on) section("$dumpall", 0);
    else if (on) { stamp(); for (u32 i = 0; i < changed_count; i++) put(&vars[changed[i]], 0); }
    for (u32 i = 0; i < changed_count; i++) noted[changed[i]] = 0;
    changed_count = 0;
    wanted = NOTHING;
    if (most && (u64)ftell(file) > most) {
        fputs("$comment the limit of the file is reached $end\n", file);
        fclose(file);
        file = 0;
        for (u32 i = 0; i < var_count; i++) K.watch[vars[i].sig] &= (u8)~WATCH_DUMP;
    }
}
void k_dump_switch(u32 how) { if (wanted != ASKED && wanted != START) wanted = how; }
void k_dump_limit(u64 bytes) { most = bytes; }
void k_dump_flush(void) { if (file) fflush(file); }
void k_dump_close(void) { if (file) { if (!timed || last_time != K.now) fprintf(file, "#%llu\n", (unsigned long long)K.now); fclose(file); file = 0; } }
