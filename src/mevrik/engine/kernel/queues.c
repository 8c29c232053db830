/* Stochastic analysis tasks (IEEE 1364-2005 17.6): queues of jobs, each with two numbers of the caller. Times are in the units
   of the calling module. */
#include "kernel.h"

enum { DONE, FULL, UNDEFINED, EMPTY, BAD_TYPE, BAD_LENGTH, DUPLICATE, NO_MEMORY };    /* table 17-14 */

typedef struct { i64 job, inform, at; } Job;
typedef struct {
    i64 id, limit;
    int last_first;
    Job *jobs; u64 first, length, room, longest;    /* jobs[first .. first + length) in the order of their arrival */
    u64 arrivals, left; i64 began, latest, shortest, waited;
} Queue;

static Queue *queues; static u32 queue_count;
static Job removed; static i64 examined;

static Queue *queue_of(i64 id) {
    for (u32 i = 0; i < queue_count; i++) if (queues[i].id == id) return &queues[i];
    return 0;
}

/* $q_initialize (17.6.1): type 1 is first-in, first-out, type 2 last-in, first-out. */
u32 k_q_initialize(i64 id, i64 type, i64 limit) {
    if (type != 1 && type != 2) return BAD_TYPE;
    if (limit <= 0) return BAD_LENGTH;
    if (queue_of(id)) return DUPLICATE;
    Queue *more = realloc(queues, (queue_count + 1) * sizeof *more);
    if (!more) return NO_MEMORY;
    queues = more;
    queues[queue_count++] = (Queue){.id = id, .limit = limit, .last_first = type == 2};
    return DONE;
}

/* $q_add (17.6.2) at the time `now`. */
u32 k_q_add(i64 id, i64 job, i64 inform, i64 now) {
    Queue *q = queue_of(id);
    if (!q) return UNDEFINED;
    if ((i64)q->length >= q->limit) return FULL;
    if (q->first + q->length == q->room) {
        if (q->first > q->room / 2) {
            memmove(q->jobs, q->jobs + q->first, q->length * sizeof *q->jobs);
            q->first = 0;
        } else {
            u64 room = q->room ? 2 * q->room : 16;
            Job *jobs = realloc(q->jobs, room * sizeof *jobs);
            if (!jobs) return NO_MEMORY;
            q->jobs = jobs;
            q->room = room;
        }
    }
    q->jobs[q->first + q->length++] = (Job){job, inform, now};
    if (q->length > q->longest) q->longest = q->length;
    if (!q->arrivals++) q->began = now;
    q->latest = now;
    return DONE;
}

/* $q_remove (17.6.3); what was removed is then told by k_q_job and k_q_inform. */
u32 k_q_remove(i64 id, i64 now) {
    Queue *q = queue_of(id);
    if (!q) return UNDEFINED;
    if (!q->length) return EMPTY;
    q->length--;
    removed = q->jobs[q->last_first ? q->first + q->length : q->first++];
    i64 wait = now - removed.at;
    if (!q->left++ || wait < q->shortest) q->shortest = wait;
    q->waited += wait;
    return DONE;
}

i64 k_q_job(void) { return removed.job; }
i64 k_q_inform(void) { return removed.inform; }

/* $q_full (17.6.4): 1, or 0 where there is room or no such queue; the status is told by k_q_known. */
u32 k_q_full(i64 id) { Queue *q = queue_of(id); return q && (i64)q->length >= q->limit; }
u32 k_q_known(i64 id) { return queue_of(id) ? DONE : UNDEFINED; }

/* $q_exam (17.6.5, table 17-13); the value is then told by k_q_value. Waits are those of the jobs that have left, but for code 5. */
u32 k_q_exam(i64 id, i64 code, i64 now) {
    Queue *q = queue_of(id);
    examined = 0;
    if (!q) return UNDEFINED;
    switch (code) {
    case 1: examined = (i64)q->length; break;
    case 2: examined = q->arrivals > 1 ? (q->latest - q->began) / (i64)(q->arrivals - 1) : 0; break;
    case 3: examined = (i64)q->longest; break;
    case 4: examined = q->shortest; break;
    case 5: examined = q->length ? now - q->jobs[q->first].at : 0; break;
    case 6: examined = q->left ? q->waited / (i64)q->left : 0; break;
    }
    return DONE;
}

i64 k_q_value(void) { return examined; }
