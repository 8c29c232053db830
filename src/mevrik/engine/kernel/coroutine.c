/* Processes that wait in the middle of what they do: each has a stack of its own (IEEE 1076-2008 10.2). */
#include <sys/mman.h>
#include "typed.h"

enum { STACK = 8 << 20, ARENA = 256 << 20 };
typedef struct { void *sp, *stack; u8 *arena, *top; u32 number, timed; u64 deadline; } Coro;

static Coro **coros; static u32 coro_room;
static void *main_sp; static u8 *main_top, *main_end, *main_arena;
static Coro *running;

#if defined(__x86_64__)
void coro_switch(void **save, void *load);
__asm__(".text\n.globl coro_switch\n.hidden coro_switch\n.type coro_switch,@function\ncoro_switch:\n"
        "pushq %rbp\npushq %rbx\npushq %r12\npushq %r13\npushq %r14\npushq %r15\n"
        "movq %rsp,(%rdi)\nmovq %rsi,%rsp\n"
        "popq %r15\npopq %r14\npopq %r13\npopq %r12\npopq %rbx\npopq %rbp\nret\n.size coro_switch,.-coro_switch\n");
static void *first_frame(u8 *top, void (*entry)(void)) {
    void **sp = (void **)((u64)top & ~63ULL);
    *--sp = 0;                          /* keeps the stack aligned as after a call */
    *--sp = (void *)entry;
    for (int i = 0; i < 6; i++) *--sp = 0;
    return sp;
}
#elif defined(__aarch64__)
void coro_switch(void **save, void *load);
__asm__(".text\n.globl coro_switch\n.hidden coro_switch\n.type coro_switch,%function\ncoro_switch:\n"
        "sub sp,sp,#160\nstp x19,x20,[sp]\nstp x21,x22,[sp,#16]\nstp x23,x24,[sp,#32]\nstp x25,x26,[sp,#48]\nstp x27,x28,[sp,#64]\n"
        "stp x29,x30,[sp,#80]\nstp d8,d9,[sp,#96]\nstp d10,d11,[sp,#112]\nstp d12,d13,[sp,#128]\nstp d14,d15,[sp,#144]\n"
        "mov x2,sp\nstr x2,[x0]\nmov sp,x1\n"
        "ldp x19,x20,[sp]\nldp x21,x22,[sp,#16]\nldp x23,x24,[sp,#32]\nldp x25,x26,[sp,#48]\nldp x27,x28,[sp,#64]\n"
        "ldp x29,x30,[sp,#80]\nldp d8,d9,[sp,#96]\nldp d10,d11,[sp,#112]\nldp d12,d13,[sp,#128]\nldp d14,d15,[sp,#144]\n"
        "add sp,sp,#160\nret\n");
static void *first_frame(u8 *top, void (*entry)(void)) {
    void **sp = (void **)((u64)top & ~63ULL);
    sp -= 20;
    memset(sp, 0, 160);
    sp[11] = (void *)entry;
    return sp;
}
#else
#error "processes with stacks need a few instructions for this machine"
#endif

void k_loop(u32 site);

static void *reserve(size_t size) {
    void *p = mmap(0, size, PROT_READ | PROT_WRITE, MAP_PRIVATE | MAP_ANONYMOUS | MAP_NORESERVE, -1, 0);
    if (p == MAP_FAILED) { fprintf(stderr, "mevrik: out of memory for the stacks of processes\n"); _Exit(70); }
    return p;
}

/* The iterations of a process; each is one call, so that better code is taken at the next one. */
static void body(void) {
    u32 number = running->number;
    for (u32 round = 1;; round++) {
        if (!(round & 4095)) k_loop(0);

        Frame *f = K.procs[number].top;
        K.fns[f->fn](K.mem, f);
    }
}

/* Lets a process go on until it waits. */
u32 typed_resume(u32 number) {
    if (number >= coro_room) {
        u32 room = coro_room;
        coro_room = number * 2 + 64;
        coros = realloc(coros, coro_room * sizeof *coros);
        memset(coros + room, 0, (coro_room - room) * sizeof *coros);
    }
    Coro *c = coros[number];
    if (!c) {
        c = coros[number] = calloc(1, sizeof *c);
        c->number = number;
        c->stack = reserve(STACK);
        mprotect(c->stack, 4096, PROT_NONE);
        c->arena = c->top = reserve(ARENA);
        c->sp = first_frame((u8 *)c->stack + STACK, body);
    }
    u8 *top = VS->top, *end = VS->end;
    u64 depth = VS->depth;
    VS->top = c->top; VS->end = c->arena + ARENA; VS->depth = 0;
    running = c;
    coro_switch(&main_sp, c->sp);
    running = 0;
    c->top = VS->top;
    VS->top = top; VS->end = end; VS->depth = depth;
    return 0;
}

/* Called by a process: it waits. Gives 1 if a signal woke it, 0 if its time is over. */
u32 v_suspend(void) {
    Coro *c = running;
    Proc *p = &K.procs[K.cur];
    p->reason = 0;
    p->generation++;
    if (c->timed) push_typed(c->deadline, 0x80000000u | K.cur);
    c->timed = 0;
    u64 depth = VS->depth;
    coro_switch(&c->sp, main_sp);
    VS->depth = depth;
    p = &K.procs[K.cur];
    p->generation++;
    return p->reason;
}
void v_until(u64 time) { running->timed = 1; running->deadline = time; }

void typed_arena(void) {
    if (!main_arena) main_arena = reserve(ARENA);
    main_top = main_arena; main_end = main_arena + ARENA;
    VS->top = main_top; VS->end = main_end;
}

u8 *arena(u64 size) {
    u8 *p = VS->top;
    size = (size + 7) & ~7ULL;
    if (UNLIKELY(size > (u64)(VS->end - p))) k_stop(ENDED_ERROR, 0, "a process needs more than 256 MiB of temporary storage: a value of absurd size, or a recursion without end");
    VS->top = p + size;
    return p;
}
u8 *v_arena(u64 size) { return arena(size); }
/* A function gives its result: what it took besides is free again. */
u8 *v_give(u8 *mark, const u8 *from, u64 size) {
    memmove(mark, from, size);
    VS->top = mark + ((size + 7) & ~7ULL);
    return mark;
}
