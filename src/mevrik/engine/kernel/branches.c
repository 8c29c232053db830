/* Processes that run on beside others: the frames of tasks, the branches of forks, what disable and kill end, and handles
 * (IEEE 1364-2005 9.8.2 and 11, IEEE 1800-2017 9.3 to 9.7). */
#include "kernel.h"

/* ---- frames ---- */

static u32 *spare; static u64 spare_count, spare_room;     /* numbers of branches that have ended */

static u32 new_proc(void) {
    if (spare_count) return spare[--spare_count];
    if (K.proc_count == K.proc_room) {
        K.proc_room = K.proc_room * 2 + 16;
        K.procs = realloc(K.procs, K.proc_room * sizeof *K.procs);
    }
    K.procs[K.proc_count].generation = 0;
    return K.proc_count++;
}

/* Before each frame lie its neighbours and its size, for who looks for what its variables lead to. */
typedef struct Room { struct Room *next, **back; u64 size, spare; } Room;
static Room *rooms;
static void free_frame(Frame *f) {
    Room *r = (Room *)f - 1;
    *r->back = r->next;
    if (r->next) r->next->back = r->back;
    free(r);
}
void frames_scan(Scan *scan) { for (const Room *r = rooms; r; r = r->next) scan(r + 1, r->size); }

static Frame *new_frame(u32 fn, u32 size, Frame *parent, Frame *link, u8 *inst, u32 proc) {
    Room *r = calloc(1, sizeof *r + size);
    if (!r) k_stop(ENDED_ERROR, 0, "out of memory for the frames of tasks");
    *r = (Room){rooms, &rooms, size, 0};
    if (rooms) rooms->back = &r->next;
    rooms = r;
    Frame *f = (Frame *)(r + 1);
    f->fn = fn; f->parent = parent; f->link = link; f->inst = inst; f->proc = proc;
    return f;
}

Frame *k_call(u32 fn, u32 size, Frame *from) {
    if (from->depth > 100000) k_stop(ENDED_ERROR, K.scheduler->ring[(K.scheduler->ring_at - 1) & 63], "a task calls itself without end (100000 calls deep)");
    Frame *f = new_frame(fn, size, from, 0, from->inst, from->proc);
    f->depth = from->depth + 1;
    K.procs[from->proc].top = f;
    return f;
}

/* For a function that forks: it runs through without a wait, but the branches use its variables (IEEE 1800-2017 13.4.4). */
Frame *k_open_frame(u32 size, u8 *inst) { return new_frame(~0u, size, 0, 0, inst, K.cur); }

void k_return(Frame *f) { K.procs[f->proc].top = f->parent; }
/* The variables of a task live as long as a branch that may use them (IEEE 1800-2017 6.21, 9.3.2). */
void k_free(Frame *f) {
    f->left = 1;
    while (f && f->left && !f->users) {
        Frame *outer = f->link;
        free_frame(f);
        if (outer) outer->users--;
        f = outer;
    }
}

/* ---- handles to processes (IEEE 1800-2017 9.7) ---- */

static u32 *awaiting; static u64 awaiting_count, awaiting_room;    /* pairs: who waits, for whom */

static void wake_awaiting(u32 number) {
    u64 kept = 0;
    for (u64 i = 0; i < awaiting_count; i += 2)
        if (awaiting[i + 1] == number) schedule_proc(awaiting[i]);
        else { awaiting[kept++] = awaiting[i]; awaiting[kept++] = awaiting[i + 1]; }
    awaiting_count = kept;
}
static void awaits_no_more(u32 who) {
    u64 kept = 0;
    for (u64 i = 0; i < awaiting_count; i += 2)
        if (awaiting[i] != who) { awaiting[kept++] = awaiting[i]; awaiting[kept++] = awaiting[i + 1]; }
    awaiting_count = kept;
}
u32 k_process_self(void) { K.procs[K.cur].state |= HELD; return K.cur; }

/* 0 finished, 1 running, 2 waiting, 3 suspended, 4 killed */
u32 k_process_status(u32 number) {
    if (number >= K.proc_count) return 0;
    u32 state = K.procs[number].state;
    return state & KILLED ? 4 : state & DEAD ? 0 : state & SUSPENDED ? 3 : number == K.cur ? 1 : 2;
}
/* 1 if the caller has to wait for the end of the other one. */
u32 k_process_await(u32 number) {
    if (number >= K.proc_count || (K.procs[number].state & DEAD)) return 0;
    if (number == K.cur) k_stop(ENDED_ERROR, 0, "a process waits for its own end (9.7)");
    awaiting = grow(awaiting, &awaiting_room, awaiting_count + 2, sizeof *awaiting);
    awaiting[awaiting_count++] = K.cur;
    awaiting[awaiting_count++] = number;
    return 1;
}

/* The number of a branch that has ended, with all that it forked, is that of a new one, if no handle names it. */
static void recycle(u32 n) {
    for (;;) {
        Proc *p = &K.procs[n];
        if (!(p->state & DEAD) || !p->parent || p->kept || p->top) return;
        if (!(p->state & HELD)) {
            p->state |= SPARE;
            spare = grow(spare, &spare_room, spare_count + 1, sizeof *spare);
            spare[spare_count++] = n;
        }
        n = p->parent - 1;
        p->parent = 0;
        K.procs[n].kept--;
    }
}

/* What an ended branch leaves behind: the frames of its tasks, and waits for what it would never see. */
void bury(u32 n) {
    Proc *p = &K.procs[n];
    if (!p->parent) return;
    drop_waits(p);
    if (awaiting_count) awaits_no_more(n);
    Frame *f = p->top;
    p->top = 0;
    while (f) { Frame *outer = f->parent; k_free(f); f = outer; }
    recycle(n);
}

/* The process that forked this one has a branch less. */
static void leave_parent(Proc *p) {
    if (!p->parent) return;
    u32 number = p->parent - 1;
    Proc *up = &K.procs[number];
    if (up->children) up->children--;
    if (!up->children && up->waits_for_children) { up->waits_for_children = 0; schedule_proc(number); }
}

void end_process(u32 number) {
    Proc *p = &K.procs[number];
    p->state |= DEAD;
    wake_awaiting(number);
    if ((p->state & OF_PROGRAM) && !--K.programs) k_finish(ENDED_FINISH, 0);
    leave_parent(p);
    Frame *join = p->join;
    if (join && p->group == join->group && join->pending) {
        join->pending--;
        if (join->pending == 0 || p->join_any) {
            join->pending = 0;
            schedule_proc(join->proc);
        }
    }
    p->join = 0;
}

/* A branch of a fork; `join` 0: join, 1: join_any, 2: join_none. */
Frame *k_fork(u32 fn, u32 size, Frame *from, u32 join, u32 fork) {
    u32 number = new_proc();
    Proc *p = &K.procs[number];
    u32 generation = p->generation + 1;
    memset(p, 0, sizeof *p);
    p->generation = generation;
    p->top = new_frame(fn, size, 0, from, from->inst, number);
    p->parent = K.cur + 1;
    p->fork = fork;
    from->users++;
    p->state |= K.procs[K.cur].state & REACTIVE;
    K.procs[K.cur].children++;
    K.procs[K.cur].kept++;
    if (join != 2) {
        if (!from->pending) from->group++;      /* those of an earlier join_any that run on are of no concern any more */
        p->join = from; p->join_any = join == 1; p->group = from->group;
        from->pending++;
    }
    random_branch(number);
    schedule_proc(number);
    return K.procs[number].top;
}

static void end_branches(Frame *f);

/* A branch ends by what another process does; whoever waits in a join is not told. */
static void end_branch(u32 n) {
    Proc *p = &K.procs[n];
    for (Frame *inner = p->top; inner; inner = inner->parent) end_branches(inner);
    drop_waits(p);
    leave_queues(n);
    p->state = (p->state & ~QUEUED) | DEAD;
    p->generation++;
    p->join = 0;
    wake_awaiting(n);
    leave_parent(p);
    if (n != K.cur) bury(n);
}

static void end_branches(Frame *f) {
    if (!f->users) return;
    for (u32 c = 0; c < K.proc_count; c++)
        if (K.procs[c].join == f && !(K.procs[c].state & DEAD)) end_branch(c);
}

/* wait fork (IEEE 1800-2017 9.6.1): 1 if the process has to wait. */
u32 k_wait_fork(void) {
    Proc *p = &K.procs[K.cur];
    p->waits_for_children = p->children != 0;
    return p->waits_for_children;
}

static void end_family(u32 number) {
    for (u32 n = 0; K.procs[number].kept && n < K.proc_count; n++) {
        if (K.procs[n].parent != number + 1) continue;
        end_family(n);
        if (!(K.procs[n].state & DEAD)) end_branch(n);
    }
}
/* disable fork (9.6.3): what this process forked ends, and what that forked, be it that it has ended itself. */
void k_disable_fork(void) { end_family(K.cur); }

static void kill_process(u32 number) {
    if (number >= K.proc_count || (K.procs[number].state & DEAD)) return;
    end_family(number);
    Proc *p = &K.procs[number];
    drop_waits(p);
    leave_queues(number);
    disarm(number);
    p->generation++;
    p->state = (p->state & ~QUEUED) | KILLED;
    for (Frame *f = p->top; f; f = f->parent) end_branches(f);
    end_process(number);
    if (number != K.cur) bury(number);
}
/* kill (9.7): the process and all that it forked end; a caller that was one of them does not go on. */
void k_process_kill(u32 number) {
    kill_process(number);
    if (K.procs[K.cur].state & DEAD) leave_process();
}

static Frame *lowest(const Proc *p) {
    Frame *f = p->top;
    while (f->parent) f = f->parent;
    return f;
}
/* $exit (24.7): all processes of the program whose process, or a branch of one, calls it. */
void k_exit(void) {
    u32 root = K.cur;
    while (K.procs[root].parent) root = K.procs[root].parent - 1;
    if (!(K.procs[root].state & OF_PROGRAM)) return;
    u8 *inst = lowest(&K.procs[K.cur])->inst;
    for (u32 n = 0; n < K.proc_count; n++) {
        Proc *p = &K.procs[n];
        if (n == root || !(p->state & OF_PROGRAM) || !p->top || lowest(p)->inst != inst) continue;
        if (p->state & DEAD) end_family(n); else kill_process(n);
    }
    if (K.procs[root].state & DEAD) end_family(root); else kill_process(root);
    leave_process();
}
/* The frame whose fork statement began a process. */
static Frame *forked_from(const Proc *p) { return lowest(p)->link; }

/* Ends what processes do inside a block: their frames of function `fn` whose state lies in [low, high) go on at `state`, and the
 * branches of its fork statements, [forks, forks_end), end, also those that nothing waits for any more (IEEE 1800-2017 9.6.3). Gives
 * 1 if the process that calls this ended with it, as such a branch, 2 if it goes on behind the block itself. */
u32 k_disable(u8 *inst, u32 fn, u32 low, u32 high, u32 state, u32 forks, u32 forks_end) {
    u32 became = 0;
    for (u32 n = 0; n < K.proc_count; n++) {
        Proc *p = &K.procs[n];
        if ((p->state & (DEAD | CELL)) || p->fork < forks || p->fork >= forks_end) continue;
        Frame *from = forked_from(p);
        if (from->fn == fn && from->inst == inst) kill_process(n);
    }
    for (u32 n = 0; n < K.proc_count; n++) {
        Proc *p = &K.procs[n];
        if ((p->state & (DEAD | CELL)) || !p->top) continue;
        for (Frame *f = p->top; f; f = f->parent) {
            if (f->fn != fn || f->inst != inst || f->state < low || f->state >= high) continue;
            if (n == K.cur && f == p->top) continue;         /* its state is old: it left the block, or leaves it by itself */
            drop_waits(p);
            p->generation++;
            p->state &= ~QUEUED;
            leave_queues(n);
            for (Frame *inner = p->top; inner != f->parent; inner = inner->parent) end_branches(inner);
            f->pending = 0;
            while (p->top != f) { Frame *gone = p->top; p->top = gone->parent; k_free(gone); }
            f->state = state;
            if (n == K.cur) became = 2;
            else schedule_proc(n);
            break;
        }
    }
    return K.procs[K.cur].state & DEAD ? 1 : became;
}

void k_process_suspend(u32 number) { if (number < K.proc_count) K.procs[number].state |= SUSPENDED; }
void k_process_resume(u32 number) {
    if (number >= K.proc_count || !(K.procs[number].state & SUSPENDED)) return;
    u32 missed = K.procs[number].state & MISSED;
    K.procs[number].state &= ~(SUSPENDED | MISSED);
    if (missed) schedule_proc(number);
}

void branches_begin(void) { spare_count = awaiting_count = 0; }
