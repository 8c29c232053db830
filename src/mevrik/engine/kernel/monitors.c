/* What is printed at the end of a moment: $strobe, $monitor and $fmonitor (IEEE 1364-2005 17.1.2, 17.1.3, 17.2.2). A print is a
 * function made of its arguments. */
#include "kernel.h"

typedef struct { u32 fn; Frame *frame; } Late;
typedef struct { Late print; u32 file, fresh; u8 *shown; size_t size; } Monitor;   /* shown: the values printed last */

static Late *strobes; static u64 strobe_count, strobe_room;
static Monitor monitor; static u32 monitor_on;
static Monitor *file_monitors; static u64 file_monitor_count, file_monitor_room;     /* any number of them (17.2.2) */
static Monitor *at_work;

void monitors_begin(void) {
    strobe_count = file_monitor_count = 0;
    monitor = (Monitor){0};
    at_work = 0;
}

void k_strobe(u32 fn, Frame *f) {
    strobes = grow(strobes, &strobe_room, strobe_count + 1, sizeof *strobes);
    strobes[strobe_count++] = (Late){fn, f};
}
void k_monitor(u32 fn, Frame *f) { monitor.print = (Late){fn, f}; monitor_on = monitor.fresh = 1; }
void k_monitor_switch(u32 on) { if (on && !monitor_on) monitor.fresh = 1; monitor_on = on; }

void k_fmonitor(u32 fn, Frame *f, u32 file) {
    for (u64 i = 0; i < file_monitor_count; i++) {
        Monitor *m = &file_monitors[i];
        if (m->print.fn == fn && m->print.frame == f && m->file == file) { m->fresh = 1; return; }
    }
    file_monitors = grow(file_monitors, &file_monitor_room, file_monitor_count + 1, sizeof *file_monitors);
    file_monitors[file_monitor_count++] = (Monitor){{fn, f}, file, 1, 0, 0};
}
/* $fclose ends the monitors of a file (17.2.2). */
void monitors_close(u32 file) {
    u64 kept = 0;
    for (u64 i = 0; i < file_monitor_count; i++) {
        Monitor *m = &file_monitors[i];
        if (m->file == file) m->file = 0;
        else if (!((m->file | file) & 0x80000000u)) m->file &= ~file;      /* channels: some of several may stay */
        if (m->file) file_monitors[kept++] = *m;
        else free(m->shown);
    }
    file_monitor_count = kept;
}

int monitoring(void) { return monitor.print.frame || file_monitor_count; }

static void show(Monitor *m) {
    at_work = m;
    K.fns[m->print.fn](K.mem, m->print.frame);
    m->fresh = 0;
    at_work = 0;
}
void print_late(void) {
    for (u64 i = 0; i < strobe_count; i++) K.fns[strobes[i].fn](K.mem, strobes[i].frame);
    strobe_count = 0;
}
void print_monitors(void) {
    if (monitor.print.frame && monitor_on) show(&monitor);
    for (u64 i = 0; i < file_monitor_count; i++) show(&file_monitors[i]);
}

/* Asked by a print with its arguments: 1 if it is that of a monitor for which, times aside, nothing has changed (17.1.3). */
int nothing_new(const Arg *args, u32 count) {
    if (!at_work) return 0;
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
    Monitor *m = at_work;
    int differs = !m->shown || m->size != need || memcmp(m->shown, now, need);
    if (differs) { free(m->shown); m->shown = now; m->size = need; } else free(now);
    return !differs && !m->fresh;
}
