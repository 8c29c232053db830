// Where the tokens of a text are. A scan goes on until the text ends or something comes that is the caller's matter.
#pragma once
#include <stdint.h>

typedef int32_t i32;
typedef uint32_t Char; // a character of the text, one of Unicode's

enum Code { // what a token is; `lang/scan/__init__.py` has the same numbers
  END, SPECIAL_DIRECTIVE, SPECIAL_BAD, SPECIAL_OPEN, // why a scan stopped
  IDENTIFIER, ESCAPED, NUMBER, TIME, STRING, SYSTEM, OPERATOR, CHARACTER, BASED, BITS
};

typedef struct {
  const Char *text;
  i32 size;
  i32 at;                 // where the scan begins, and where it stopped
  const char *operators;  // each with a zero behind it, the longer ones first, an empty one at the end
  const char *words;      // VHDL: words in lower case that end no name, likewise
  i32 extended;           // SystemVerilog's tokens too
  i32 quiet;              // to the next directive, without tokens
  i32 count;              // of tokens
  i32 end;                // of what the scan stopped at
  i32 *codes, *starts, *ends;
} Scan;

static inline int is_digit(Char c) { return c - '0' < 10; }
static inline int is_letter(Char c) { return (c | 32) - 'a' < 26; }
static inline int is_word(Char c) { return is_letter(c) || is_digit(c) || c == '_'; }

static inline int is_space(Char c) {
  if (c < 128) return c == ' ' || (c >= '\t' && c <= '\r') || (c >= 0x1c && c <= 0x1f);
  return c == 0x85 || c == 0xa0 || c == 0x1680 || (c >= 0x2000 && c <= 0x200a) || c == 0x2028 || c == 0x2029 || c == 0x202f
      || c == 0x205f || c == 0x3000;
}

// The character at a place, 0 behind the end.
static inline Char at(const Scan *s, i32 k) { return k < s->size ? s->text[k] : 0; }

static inline i32 digits(const Scan *s, i32 k) { // digits and '_'
  while (is_digit(at(s, k)) || at(s, k) == '_') k++;
  return k;
}

static inline i32 line_end(const Scan *s, i32 k) {
  while (k < s->size && s->text[k] != '\n') k++;
  return k;
}

// The end of the comment that begins at `k` with two characters, -1 if it has none.
static inline i32 block_end(const Scan *s, i32 k) {
  for (k += 2; k + 1 < s->size; k++)
    if (s->text[k] == '*' && s->text[k + 1] == '/') return k + 2;
  return -1;
}

static inline i32 operator_end(const Scan *s, i32 k) { // -1: there is none
  for (const char *op = s->operators; *op;) {
    if ((Char)(unsigned char)*op == s->text[k]) {
      i32 n = 1;
      while (op[n] && (Char)(unsigned char)op[n] == at(s, k + n)) n++;
      if (!op[n]) return k + n;
    }
    while (*op) op++;
    op++;
  }
  return -1;
}

static inline void token(Scan *s, enum Code code, i32 start, i32 end) {
  if (!s->quiet) {
    s->codes[s->count] = code;
    s->starts[s->count] = start;
    s->ends[s->count++] = end;
  }
  s->at = end;
}

static inline enum Code stopped(Scan *s, enum Code why, i32 end) {
  s->end = end;
  return why;
}

enum Code scan_verilog(Scan *s);
enum Code scan_vhdl(Scan *s);
