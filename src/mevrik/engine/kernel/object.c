/* Objects of classes (IEEE 1800-2017 clause 8): words of storage behind a number; 0 is null. They live as long as the run. */
#include "kernel.h"

typedef struct { u32 class_id, words; u64 data[]; } Object;
static Object **objects; static u64 object_count, object_room;

u64 k_new(u32 class_id, u32 words) {
    if (object_count + 1 >= object_room) {
        object_room = object_room ? object_room * 2 : 256;
        objects = realloc(objects, object_room * sizeof *objects);
    }
    if (!object_count) objects[object_count++] = 0;
    Object *o = calloc(1, sizeof *o + 8 * (u64)words);
    if (!o) k_stop(ENDED_ERROR, 0, "out of memory for objects");
    o->class_id = class_id; o->words = words;
    objects[object_count] = o;
    return object_count++;
}
static Object *of(u64 h, u32 site) {
    if (!h || h >= object_count) k_stop(ENDED_ERROR, site, "a null handle is used: no object was assigned to this variable (8.4)");
    return objects[h];
}
u64 *k_object(u64 h, u32 site) { return of(h, site)->data; }
/* 0 for null: a method called through it stops at its first use of the object. */
u32 k_class(u64 h, u32 site) { (void)site; return h && h < object_count ? objects[h]->class_id : 0; }
/* A shallow copy (8.12). */
u64 k_new_copy(u64 from, u32 site) {
    Object *o = of(from, site);
    u64 made = k_new(o->class_id, o->words);
    memcpy(objects[made]->data, objects[from]->data, 8 * (u64)o->words);
    return made;
}
/* If the copy is of this class, the list at this byte of it becomes a copy too. */
void k_own_list(u64 h, u32 class_id, u32 at) {
    if (objects[h]->class_id != class_id) return;
    u64 list;
    u8 *place = (u8 *)objects[h]->data + at;
    memcpy(&list, place, 8);
    list = k_list_clone(list);
    memcpy(place, &list, 8);
}
/* A virtual interface that is used (25.9). */
u64 k_link(u64 link) {
    if (!link) k_stop(ENDED_ERROR, 0, "a virtual interface is used that no interface was assigned to (IEEE 1800-2017 25.9)");
    return link;
}
