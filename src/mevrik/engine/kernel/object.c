/* Objects of classes (IEEE 1800-2017 clause 8): words of storage behind a number; 0 is null. They live while something
 * leads to them (collect.c). */
#include "kernel.h"

typedef struct { u32 class_id, words; u64 random, data[]; } Object;     /* random: the state of its source of random numbers (18.14.1) */
static Object **objects; static u64 object_count, object_room;
static u64 *unused; static u64 unused_count, unused_room;     /* numbers of objects that were given back */
static u8 *reached;

u64 k_new(u32 class_id, u32 words) {
    Object *o = calloc(1, sizeof *o + 8 * (u64)words);
    if (!o) k_stop(ENDED_ERROR, 0, "out of memory for objects");
    o->class_id = class_id; o->words = words; o->random = random_of_maker();
    owed += sizeof *o + 8 * (u64)words + 24;
    if (unused_count) { objects[unused[--unused_count]] = o; return HANDLE(OF_OBJECT, unused[unused_count]); }
    if (object_count + 1 >= object_room) {
        object_room = object_room ? object_room * 2 : 256;
        objects = realloc(objects, object_room * sizeof *objects);
    }
    if (!object_count) objects[object_count++] = 0;
    objects[object_count] = o;
    return HANDLE(OF_OBJECT, object_count++);
}
static Object *of(u64 h, u32 site) {
    if (h >> 40 != OF_OBJECT) k_stop(ENDED_ERROR, site, "a null handle is used: no object was assigned to this variable (8.4)");
    return objects[NUMBER(h)];
}
u64 *object_random(u64 h) { return &of(h, 0)->random; }
u64 *k_object(u64 h, u32 site) { return of(h, site)->data; }
/* 0 for null: a method called through it stops at its first use of the object. */
u32 k_class(u64 h, u32 site) { (void)site; return h >> 40 == OF_OBJECT ? objects[NUMBER(h)]->class_id : 0; }
/* A shallow copy (8.12). */
u64 k_new_copy(u64 from, u32 site) {
    Object *o = of(from, site);
    u64 made = k_new(o->class_id, o->words);
    memcpy(of(made, site)->data, o->data, 8 * (u64)o->words);
    return made;
}
/* If the copy is of this class, the list at this byte of it becomes a copy too. */
void k_own_list(u64 h, u32 class_id, u32 at) {
    Object *o = of(h, 0);
    if (o->class_id != class_id) return;
    u64 list;
    u8 *place = (u8 *)o->data + at;
    memcpy(&list, place, 8);
    list = k_list_clone(list);
    memcpy(place, &list, 8);
}

/* ---- collection ---- */

void objects_ready(void) { reached = calloc(object_count / 8 + 1, 1); }
int object_reached(u64 n) {
    if (n >= object_count || !objects[n] || reached[n / 8] >> n % 8 & 1) return 0;
    reached[n / 8] |= (u8)(1 << n % 8);
    return 1;
}
void object_scan(u64 n, Scan *scan) { scan(objects[n]->data, 8 * (u64)objects[n]->words); }
/* Gives back what was not reached; how many bytes the others take. */
u64 objects_swept(void) {
    u64 live = 0;
    for (u64 n = 1; n < object_count; n++) {
        if (!objects[n]) continue;
        if (reached[n / 8] >> n % 8 & 1) { live += sizeof(Object) + 8 * (u64)objects[n]->words + 24; continue; }
        free(objects[n]);
        objects[n] = 0;
        unused = grow(unused, &unused_room, unused_count + 1, sizeof *unused);
        unused[unused_count++] = n;
    }
    free(reached);
    return live;
}

/* A virtual interface that is used (25.9). */
u64 k_link(u64 link) {
    if (!link) k_stop(ENDED_ERROR, 0, "a virtual interface is used that no interface was assigned to (IEEE 1800-2017 25.9)");
    return link;
}
