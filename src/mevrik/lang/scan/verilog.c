// Tokens of Verilog (IEEE 1364-2005 clause 3) and SystemVerilog (IEEE 1800-2017 clause 5).
#include "scan.h"

static int is_dollar_word(Char c) { return is_word(c) || c == '$'; }

static i32 time_end(const Scan *s, i32 k) { // 5.8: a number with a unit close behind it
  k = digits(s, k);
  if (at(s, k) == '.' && is_digit(at(s, k + 1))) k = digits(s, k + 1);
  Char c = at(s, k);
  if (c == 'f' || c == 'p' || c == 'n' || c == 'u' || c == 'm') c = at(s, ++k);
  return c == 's' && !is_word(at(s, k + 1)) ? k + 1 : -1;
}

static i32 blanks(const Scan *s, i32 k) {
  while (is_space(at(s, k))) k++;
  return k;
}

static i32 based_end(const Scan *s, i32 k) { // 5.7.1, the size or the apostrophe at `k`
  if (is_digit(at(s, k))) k = blanks(s, digits(s, k));
  if (at(s, k) != '\'') return -1;
  k = blanks(s, k + 1);
  if ((at(s, k) | 32) == 's') k++;
  Char base = at(s, k) | 32;
  if (base != 'b' && base != 'o' && base != 'd' && base != 'h') return -1;
  k = blanks(s, k + 1);
  Char first = at(s, k), low = first | 32;
  if (!is_digit(first) && !(low >= 'a' && low <= 'f') && low != 'x' && low != 'z' && first != '?') return -1;
  while (is_word(at(s, k)) || at(s, k) == '?') k++;
  return k;
}

static i32 fill_end(const Scan *s, i32 k) { // '0 '1 'x 'z
  Char c = at(s, k + 1), low = c | 32;
  return (c == '0' || c == '1' || low == 'x' || low == 'z') && !is_word(at(s, k + 2)) ? k + 2 : -1;
}

static i32 exponent_end(const Scan *s, i32 k) { // -1: there is none
  if ((at(s, k) | 32) != 'e') return -1;
  k++;
  if (at(s, k) == '+' || at(s, k) == '-') k++;
  return is_digit(at(s, k)) ? digits(s, k) : -1;
}

static i32 decimal_end(const Scan *s, i32 k) { // 5.7.2
  k = digits(s, k);
  if (at(s, k) == '.' && is_digit(at(s, k + 1))) k = digits(s, k + 1);
  i32 end = exponent_end(s, k);
  return end < 0 ? k : end;
}

static i32 string_end(const Scan *s, i32 k) { // -1: it is not closed on its line
  if (s->extended && at(s, k + 1) == '"' && at(s, k + 2) == '"')
    for (i32 j = k + 3; j + 2 < s->size; j++)
      if (s->text[j] == '"' && s->text[j + 1] == '"' && s->text[j + 2] == '"') return j + 3;
  for (k++; k < s->size && s->text[k] != '"'; k++) {
    if (s->text[k] == '\n') return -1;
    if (s->text[k] == '\\') k++;
  }
  return k < s->size ? k + 1 : -1;
}

static i32 directive_end(const Scan *s, i32 k) { // -1: nothing that can stand behind a grave accent
  Char c = at(s, k + 1);
  if (c == '`' || c == '"') return k + 2;
  if (c == '\\' && k + 2 < s->size && !is_space(s->text[k + 2])) {
    for (k += 2; k < s->size && !is_space(s->text[k]);) k++;
    return k;
  }
  if (!is_letter(c) && c != '_') return -1;
  for (k += 2; is_dollar_word(at(s, k));) k++;
  return k;
}

enum Code scan_verilog(Scan *s) {
  while (s->at < s->size) {
    i32 k = s->at, end;
    Char c = s->text[k], next = at(s, k + 1);
    if (is_space(c)) {
      s->at++;
    } else if (is_letter(c) || c == '_') {
      for (end = k + 1; is_dollar_word(at(s, end));) end++;
      token(s, IDENTIFIER, k, end);
    } else if (c == '/' && next == '/') {
      s->at = line_end(s, k);
    } else if (c == '/' && next == '*') {
      end = block_end(s, k);
      if (end < 0 && !s->quiet) return stopped(s, SPECIAL_OPEN, s->size);
      s->at = end < 0 ? k + 1 : end;
    } else if (is_digit(c)) {
      if (s->extended && (end = time_end(s, k)) >= 0) token(s, TIME, k, end);
      else token(s, NUMBER, k, (end = based_end(s, k)) >= 0 ? end : decimal_end(s, k));
    } else if (c == '\'' && ((end = based_end(s, k)) >= 0 || (end = fill_end(s, k)) >= 0)) {
      token(s, NUMBER, k, end);
    } else if (c == '"' && (end = string_end(s, k)) >= 0) {
      token(s, STRING, k, end);
    } else if (c == '\\' && k + 1 < s->size && !is_space(next)) {
      for (end = k + 1; end < s->size && !is_space(s->text[end]);) end++;
      token(s, ESCAPED, k, end);
    } else if (c == '$' && (is_letter(next) || next == '_' || next == '$')) {
      for (end = k + 1; is_dollar_word(at(s, end));) end++;
      token(s, SYSTEM, k, end);
    } else if (c == '`' && (end = directive_end(s, k)) >= 0) {
      return stopped(s, SPECIAL_DIRECTIVE, end);
    } else if ((end = operator_end(s, k)) >= 0) {
      token(s, OPERATOR, k, end);
    } else if (s->quiet) {
      s->at++;
    } else {
      return stopped(s, SPECIAL_BAD, k + 1);
    }
  }
  return END;
}
