/* Gives back the objects, lists and texts to which nothing leads any more. It happens between two moments, when no process runs: what can lead to
 * one is then in variables, in the frames of processes and in assignments that are still to come. Whatever looks like a handle there counts as one;
 * a handle lies at a whole word wherever one is kept (structures are laid out so). What was reached is searched in turn. */
#include "kernel.h"

u64 owed, owed_most = ~0ULL;
static u64 least;                      /* bytes after which a collection is worth while, if little was left by the last one; 0: after each moment */
static const u64 *areas; static u32 area_count;     /* pairs: from where, how many bytes of the memory block variables take that may hold handles */
static u64 *todo; static u64 todo_count, todo_room;

void k_collect(const u64 *pairs, u32 count, u64 after) { areas = pairs; area_count = count; least = owed_most = after; owed = 0; }

static void reach(u64 handle) {
    u64 of = handle >> 40, number = NUMBER(handle);
    if (of == OF_TEXT) text_reached(number);
    else if ((of == OF_OBJECT && object_reached(number)) || (of == OF_LIST && list_reached(number))) {
        todo = grow(todo, &todo_room, todo_count + 1, sizeof *todo);
        todo[todo_count++] = handle;
    }
}
static void scan(const void *from, u64 bytes) {
    const u64 *word = from;
    for (u64 i = 0; i < bytes / 8; i++) if (word[i] >> 40) reach(word[i]);
}

void collect(void) {
    objects_ready(); lists_ready(); texts_ready();
    for (u32 i = 0; i < area_count; i++) scan(K.mem + areas[2 * i], areas[2 * i + 1]);
    frames_scan(scan);
    updates_scan(scan);
    held_scan(scan);
    lists_in_use(reach);
    while (todo_count) {
        u64 handle = todo[--todo_count];
        if (handle >> 40 == OF_OBJECT) object_scan(NUMBER(handle), scan);
        else list_scan(NUMBER(handle), scan);
    }
    u64 live = objects_swept() + lists_swept() + texts_swept();
    owed = 0;
    owed_most = live > least && least ? live : least;
}
