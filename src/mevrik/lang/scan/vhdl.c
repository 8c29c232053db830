// Tokens of VHDL (IEEE 1076-2008 clause 15).
#include "scan.h"

static int begins_name(Char c) { return is_letter(c) || (c >= 0xc0 && c <= 0x24f && c != 0xd7 && c != 0xf7); }
static int in_name(Char c) { return is_digit(c) || c == '_' || begins_name(c); }

static i32 closing(const Scan *s, i32 k, Char quote) { // the end of what begins at `k`, on one line; a doubled quote is in it
  for (k++; k < s->size && s->text[k] != '\n'; k++)
    if (s->text[k] == quote) {
      if (at(s, k + 1) != quote) return k + 1;
      k++;
    }
  return -1;
}

static i32 plain_closing(const Scan *s, i32 k, Char quote) { // the same, without doubled ones
  for (k++; k < s->size && s->text[k] != '\n'; k++)
    if (s->text[k] == quote) return k + 1;
  return -1;
}

static i32 bits_end(const Scan *s, i32 k) { // 15.8: its length or its base at `k`; -1: it is no bit string
  while (is_digit(at(s, k))) k++;
  Char base = at(s, k) | 32;
  if (base == 'd') return at(s, k + 1) == '"' ? plain_closing(s, k + 1, '"') : -1;
  int by_sign = base == 'u' || base == 's';
  if (by_sign) base = at(s, ++k) | 32;
  if (base != 'b' && base != 'o' && base != 'x') return -1;
  Char quote = at(s, k + 1);
  return quote == '"' || quote == '%' ? plain_closing(s, k + 1, quote) : -1;
}

static i32 exponent_end(const Scan *s, i32 k) {
  if ((at(s, k) | 32) != 'e') return k;
  i32 j = k + 1;
  if (at(s, j) == '+' || at(s, j) == '-') j++;
  return is_digit(at(s, j)) ? digits(s, j) : k;
}

static i32 based_digits(const Scan *s, i32 k) {
  for (Char c; is_digit(c = at(s, k)) || c == '_' || ((c | 32) >= 'a' && (c | 32) <= 'f');) k++;
  return k;
}

static i32 based_end(const Scan *s, i32 k) { // 15.5.3: -1 if it is no based literal
  k = digits(s, k);
  Char mark = at(s, k);
  if (mark != '#' && mark != ':') return -1;
  i32 first = k + 1;
  k = based_digits(s, first);
  if (k == first) return -1;
  if (at(s, k) == '.') {
    first = k + 1;
    k = based_digits(s, first);
    if (k == first) return -1;
  }
  return at(s, k) == mark ? exponent_end(s, k + 1) : -1;
}

static i32 decimal_end(const Scan *s, i32 k) {
  k = digits(s, k);
  if (at(s, k) == '.' && is_digit(at(s, k + 1))) k = digits(s, k + 1);
  return exponent_end(s, k);
}

static int is_listed(const Scan *s, i32 start, i32 end) {
  for (const char *word = s->words; *word;) {
    i32 n = 0;
    while (word[n] && start + n < end && (s->text[start + n] | 32) == (Char)word[n]) n++;
    if (!word[n] && start + n == end) return 1;
    while (*word) word++;
    word++;
  }
  return 0;
}

// Behind a name, or what can end one, an apostrophe begins an attribute or a qualified expression.
static int ends_prefix(const Scan *s) {
  if (!s->count) return 0;
  i32 start = s->starts[s->count - 1], last = s->ends[s->count - 1] - 1;
  switch (s->codes[s->count - 1]) {
  case IDENTIFIER: return !is_listed(s, start, last + 1);
  case ESCAPED: case STRING: case CHARACTER: return 1;
  case OPERATOR: return start == last && (s->text[start] == ')' || s->text[start] == ']');
  default: return 0;
  }
}

enum Code scan_vhdl(Scan *s) {
  while (s->at < s->size) {
    i32 k = s->at, end;
    Char c = s->text[k], next = at(s, k + 1);
    if (is_space(c)) {
      s->at++;
    } else if (c == '-' && next == '-') {
      s->at = line_end(s, k);
    } else if (c == '/' && next == '*') {
      end = block_end(s, k);
      if (end < 0) return stopped(s, SPECIAL_OPEN, s->size);
      s->at = end;
    } else if (c == '\'' && k + 2 < s->size && s->text[k + 2] == '\'' && !ends_prefix(s)) {
      token(s, CHARACTER, k, k + 3);
    } else if (begins_name(c)) {
      if ((end = bits_end(s, k)) >= 0) {
        token(s, BITS, k, end);
        continue;
      }
      for (end = k + 1; in_name(at(s, end));) end++;
      token(s, IDENTIFIER, k, end);
    } else if (is_digit(c)) {
      if ((end = bits_end(s, k)) >= 0) token(s, BITS, k, end);
      else if ((end = based_end(s, k)) >= 0) token(s, BASED, k, end);
      else token(s, NUMBER, k, decimal_end(s, k));
    } else if (c == '\\' && (end = closing(s, k, c)) >= 0) {
      token(s, ESCAPED, k, end);
    } else if ((c == '"' || c == '%') && (end = closing(s, k, c)) >= 0) {
      token(s, STRING, k, end);
    } else if ((end = operator_end(s, k)) >= 0) {
      token(s, OPERATOR, k, end);
    } else {
      return stopped(s, SPECIAL_BAD, k + 1);
    }
  }
  return END;
}
