// Object code as it was kept: loaded without a compiler. It was made with the large code model, so that all its references are absolute
// addresses of 64 bits; an object with any other is refused, and the caller has LLVM load it.
#define _GNU_SOURCE
#include <dlfcn.h>
#include <elf.h>
#include <stdlib.h>
#include <string.h>
#include <sys/mman.h>

#include "kernel.h"

typedef struct {
  u8 *memory; // of all sections, those that are written from a page of their own on
  size_t fixed, size;
  const u8 *file;
  const Elf64_Shdr *sections;
  u8 **at; // where each section is, 0 if it is not loaded
  const Elf64_Sym *symbols;
  const char *names;
  const Elf64_Sym **named; // the functions by their names
  size_t count;
} Object;

static void *ourselves(void) { // the kernel and what it is linked with
  static void *handle;
  Dl_info info;
  if (!handle && dladdr((void *)ourselves, &info)) handle = dlopen(info.dli_fname, RTLD_LAZY | RTLD_NOLOAD);
  return handle;
}

static int is_ours(const u8 *file, u64 size) {
#ifdef __x86_64__
  const Elf64_Ehdr *head = (const Elf64_Ehdr *)file;
  return size > sizeof *head && !memcmp(head->e_ident, ELFMAG, SELFMAG) && head->e_type == ET_REL && head->e_machine == EM_X86_64
      && head->e_shentsize == sizeof(Elf64_Shdr) && head->e_shoff + (u64)head->e_shnum * sizeof(Elf64_Shdr) <= size;
#else
  (void)file, (void)size;
  return 0;
#endif
}

static u64 address(const Object *o, u64 number, int *missing) {
  const Elf64_Sym *s = &o->symbols[number];
  if (s->st_shndx == SHN_ABS) return s->st_value;
  if (s->st_shndx >= SHN_LORESERVE) *missing = 1;
  if (s->st_shndx >= SHN_LORESERVE) return 0;
  if (s->st_shndx == SHN_UNDEF) {
    u64 found = number ? (u64)dlsym(ourselves(), o->names + s->st_name) : 0;
    *missing |= number && !found;
    return found;
  }
  u8 *section = o->at[s->st_shndx];
  *missing |= !section;
  return (u64)section + s->st_value;
}

static int relocate(const Object *o, const Elf64_Shdr *table) {
  u8 *target = o->at[table->sh_info];
  if (!target) return 1;
  const Elf64_Rela *entries = (const Elf64_Rela *)(o->file + table->sh_offset);
  int missing = 0;
  for (u64 k = 0; k < table->sh_size / sizeof *entries && !missing; k++) {
    u8 *place = target + entries[k].r_offset;
    u64 value = address(o, ELF64_R_SYM(entries[k].r_info), &missing) + entries[k].r_addend;
    if (ELF64_R_TYPE(entries[k].r_info) == R_X86_64_PC64) value -= (u64)place;
    else if (ELF64_R_TYPE(entries[k].r_info) != R_X86_64_64) return 0;
    memcpy(place, &value, 8);
  }
  return !missing;
}

// Gives the sections that are written, or the others, their places in `memory`, or only counts. Returns where they end.
static size_t place_sections(Object *o, int count, int written, size_t at, u8 *memory) {
  for (int k = 0; k < count; k++) {
    const Elf64_Shdr *s = &o->sections[k];
    if (!(s->sh_flags & SHF_ALLOC) || s->sh_type == SHT_X86_64_UNWIND) continue; // nothing is thrown through this code
    if (!!(s->sh_flags & SHF_WRITE) != written) continue;
    size_t align = s->sh_addralign > 1 ? s->sh_addralign : 1;
    at = (at + align - 1) / align * align;
    if (memory) {
      o->at[k] = memory + at;
      if (s->sh_type != SHT_NOBITS) memcpy(memory + at, o->file + s->sh_offset, s->sh_size);
    }
    at += s->sh_size;
  }
  return at;
}

static int make_room(Object *o, int count) {
  size_t page = 4096;
  o->fixed = (place_sections(o, count, 0, 0, 0) + page) / page * page;
  o->size = place_sections(o, count, 1, o->fixed, 0) + 1;
  o->memory = mmap(0, o->size, PROT_READ | PROT_WRITE, MAP_PRIVATE | MAP_ANONYMOUS, -1, 0);
  if (o->memory == MAP_FAILED) o->memory = 0;
  if (!o->memory) return 0;
  place_sections(o, count, 0, 0, o->memory);
  place_sections(o, count, 1, o->fixed, o->memory);
  return 1;
}

static const char *sorted_names; // of the object that is being sorted

static int by_name(const void *a, const void *b) {
  return strcmp(sorted_names + (*(const Elf64_Sym **)a)->st_name, sorted_names + (*(const Elf64_Sym **)b)->st_name);
}

static void read_symbols(Object *o, const Elf64_Shdr *table) {
  size_t total = table->sh_size / sizeof(Elf64_Sym);
  o->symbols = (const Elf64_Sym *)(o->file + table->sh_offset);
  o->names = (const char *)o->file + o->sections[table->sh_link].sh_offset;
  o->named = malloc((total + 1) * sizeof *o->named);
  for (size_t k = 0; k < total; k++) {
    const Elf64_Sym *s = &o->symbols[k];
    if (ELF64_ST_BIND(s->st_info) == STB_GLOBAL && s->st_shndx != SHN_UNDEF && s->st_shndx < SHN_LORESERVE) o->named[o->count++] = s;
  }
  sorted_names = o->names;
  qsort(o->named, o->count, sizeof *o->named, by_name);
}

void code_free(Object *o) {
  if (o->memory) munmap(o->memory, o->size);
  free(o->at);
  free(o->named);
  free(o);
}

// An object in memory, which has to stay there as long as it is used; 0 if it needs more than this can do.
Object *code_load(const u8 *file, u64 size) {
  if (!is_ours(file, size)) return 0;
  const Elf64_Ehdr *head = (const Elf64_Ehdr *)file;
  int count = head->e_shnum, good;
  Object *o = calloc(1, sizeof *o);
  o->file = file;
  o->sections = (const Elf64_Shdr *)(file + head->e_shoff);
  o->at = calloc(count, sizeof *o->at);
  good = make_room(o, count);
  for (int k = 0; k < count && good; k++)
    if (o->sections[k].sh_type == SHT_SYMTAB) read_symbols(o, &o->sections[k]);
  for (int k = 0; k < count && good; k++) {
    if (o->sections[k].sh_type == SHT_RELA) good = relocate(o, &o->sections[k]);
    if (o->sections[k].sh_type == SHT_REL) good = 0;
  }
  if (good && !mprotect(o->memory, o->fixed, PROT_READ | PROT_EXEC)) return o;
  code_free(o);
  return 0;
}

// The address of a function; 0 if there is none of that name.
void *code_address(const Object *o, const char *name) {
  size_t low = 0, high = o->count;
  while (low < high) {
    size_t middle = (low + high) / 2;
    int order = strcmp(o->names + o->named[middle]->st_name, name);
    if (!order) return o->at[o->named[middle]->st_shndx] + o->named[middle]->st_value;
    if (order < 0) low = middle + 1;
    else high = middle;
  }
  return 0;
}
