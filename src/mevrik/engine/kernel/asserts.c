/* $assertoff, $asserton and $assertkill (IEEE 1800-2017 20.12): whether attempts of an assertion begin, and how often those under way
 * were given up. What was asked for is kept in order; of what names an assertion, the last one counts. */
#include "kernel.h"

enum { OFF = 0, ON = 1, KILL = 2 };
typedef struct { u32 how, levels; char *scope; } Rule;             /* scope: a full path; null: everything. levels 0: all below */
static Rule *rules; static u64 rule_count, rule_room;

void asserts_begin(void) { rule_count = 0; }

static void add(u32 how, u32 levels, char *scope) {
    if (!scope && how != KILL) {                                    /* nothing that came before counts any more, but what was given up */
        u64 kept = 0;
        for (u64 k = 0; k < rule_count; k++) if (rules[k].how == KILL) rules[kept++] = rules[k];
        rule_count = kept;
    }
    rules = grow(rules, &rule_room, rule_count + 1, sizeof *rules);
    rules[rule_count++] = (Rule){how, levels, scope};
}

/* The full path of "/top|steps" or of steps from an instance, where "^" leads to the instance around it. */
static char *full_path(u32 inst, const char *way, size_t length) {
    const char *from = K.inst_names[inst];
    char *path = malloc(strlen(from) + length + 2);
    strcpy(path, from);
    for (const char *end = way + length; way < end;) {
        const char *stop = memchr(way, '|', (size_t)(end - way));
        if (!stop) stop = end;
        char *last = strrchr(path, '.');
        if (*way == '/') { memcpy(path, way + 1, (size_t)(stop - way - 1)); path[stop - way - 1] = 0; }
        else if (*way == '^') { if (last) *last = 0; }
        else { strcat(path, "."); strncat(path, way, (size_t)(stop - way)); }
        way = stop + 1;
    }
    return path;
}

/* `request`: the number of levels and, each in a line, ways to scopes; without one everything is meant. */
void k_asserts(u32 how, u32 inst, const char *request) {
    u32 levels = (u32)strtoul(request, (char **)&request, 10);
    if (!*request) { add(how, 0, 0); return; }
    while (*request++) {
        const char *end = strchr(request, '\n');
        size_t length = end ? (size_t)(end - request) : strlen(request);
        add(how, levels, full_path(inst, request, length));
        request += length;
    }
}

static int meant(const Rule *r, u32 inst, const char *name) {
    if (!r->scope) return 1;
    const char *path = K.inst_names[inst];
    size_t size = strlen(r->scope), own = strlen(path);
    if (size <= own) {                                              /* the scope is this instance or one around it */
        if (strncmp(path, r->scope, size) || (path[size] && path[size] != '.')) return 0;
        u32 below = 0;
        for (const char *p = path + size; *p; p++) below += *p == '.';
        return !r->levels || below < r->levels;
    }
    if (strncmp(path, r->scope, own) || r->scope[own] != '.') return 0;
    const char *inner = r->scope + own + 1;                         /* a block, or the assertion itself */
    size_t length = strlen(inner);
    return !strncmp(name, inner, length) && (!name[length] || name[length] == '.');
}

/* `name`: the scope inside of the instance and the label. */
u32 k_asserts_on(u32 inst, const char *name) {
    for (u64 k = rule_count; k-- > 0;) if (rules[k].how != KILL && meant(&rules[k], inst, name)) return rules[k].how;
    return ON;
}
u32 k_asserts_killed(u32 inst, const char *name) {
    u32 count = 0;
    for (u64 k = 0; k < rule_count; k++) count += rules[k].how == KILL && meant(&rules[k], inst, name);
    return count;
}
