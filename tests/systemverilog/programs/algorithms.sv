// algorithms and data structures
module tb;
  typedef struct { string name; int age; real w; } person_t;
  typedef int unsigned uq_t[$];
  function automatic void quicksort(ref int a[], input int lo, hi);
    if (lo < hi) begin
      int p = a[hi], i = lo - 1;
      for (int j = lo; j < hi; j++) if (a[j] <= p) begin i++; {a[i], a[j]} = {a[j], a[i]}; end
      {a[i+1], a[hi]} = {a[hi], a[i+1]};
      quicksort(a, lo, i); quicksort(a, i + 2, hi);
    end
  endfunction
  function automatic uq_t primes(int n);
    bit sieve[]; sieve = new[n + 1];
    for (int i = 2; i <= n; i++) if (!sieve[i]) begin primes.push_back(i); for (int j = i * i; j <= n; j += i) sieve[j] = 1; end
  endfunction
  function automatic int fib(int n); static int memo[int]; if (n < 2) return n; if (memo.exists(n)) return memo[n]; memo[n] = fib(n-1) + fib(n-2); return memo[n]; endfunction
  class node; int key; node l, r; function new(int k); key = k; endfunction endclass
  class tree; node root; int n;
    function void insert(int k); root = ins(root, k); endfunction
    local function node ins(node x, int k); if (x == null) begin n++; ins = new(k); return ins; end
      if (k < x.key) x.l = ins(x.l, k); else if (k > x.key) x.r = ins(x.r, k); return x; endfunction
    function void walk(node x, ref int out[$]); if (x == null) return; walk(x.l, out); out.push_back(x.key); walk(x.r, out); endfunction
    function int depth(node x); return x == null ? 0 : 1 + (depth(x.l) > depth(x.r) ? depth(x.l) : depth(x.r)); endfunction
  endclass
  class stack #(type T = int); local T items[$]; function void push(T x); items.push_front(x); endfunction
    function T pop(); return items.pop_front(); endfunction function bit empty(); return items.size() == 0; endfunction
    function int size(); return items.size(); endfunction endclass
  function automatic string rpn(string s);
    stack#(int) st = new; string word = ""; int a, b;
    for (int i = 0; i <= s.len(); i++) begin
      byte c = i < s.len() ? s[i] : " ";
      if (c == " ") begin
        if (word == "") continue;
        case (word)
          "+", "-", "*", "/": begin b = st.pop(); a = st.pop();
            case (word[0]) "+": st.push(a + b); "-": st.push(a - b); "*": st.push(a * b); default: st.push(a / b); endcase end
          default: st.push(word.atoi());
        endcase
        word = "";
      end else word = {word, string'(c)};
    end
    return st.size() == 1 ? $sformatf("%0d", st.pop()) : "bad";
  endfunction
  initial begin
    int a[] = '{5, 2, 9, 1, 7, 3}; int q[$]; tree t = new; int out[$]; person_t people[$]; int hist[string]; string words[$] = '{"lock","gate","lock","sluice","gate","lock"};
    int m[2][3] = '{'{1,2,3},'{4,5,6}}; int tr[3][2]; bit [7:0] bytes[4]; logic [31:0] word; int sum;
    quicksort(a, 0, a.size() - 1); $display("%p", a);
    $display("%p", primes(30)); $display("%0d", fib(40));
    foreach (words[i]) hist[words[i]]++;
    $display("%p", hist); begin string k; if (hist.first(k)) do $write("%s:%0d ", k, hist[k]); while (hist.next(k)); $display; end
    foreach (a[i]) t.insert((a[i] * 7) % 10); t.walk(t.root, out); $display("%p n=%0d d=%0d", out, t.n, t.depth(t.root));
    people.push_back('{"Ida", 41, 61.5}); people.push_back('{"Bo", 29, 82.25}); people.push_back('{name:"Ann", age:35, w:55.0});
    people.sort with (item.age); foreach (people[i]) $write("%s ", people[i].name); $display;
    people.rsort(p) with (p.name); foreach (people[i]) $write("%s ", people[i].name); $display;
    $display("%0d %p", people.sum() with (item.age), people.find_first_index(x) with (x.age > 30));
    begin person_t f[$] = people.find with (item.w > 60); $display("%0d %s", f.size(), f[0].name); end
    foreach (m[i,j]) tr[j][i] = m[i][j]; $display("%p", tr);
    word = 32'hDEADBEEF; {>>{bytes}} = word; $display("%p", bytes); {<<8{word}} = {bytes[0], bytes[1], bytes[2], bytes[3]}; $display("%h", word);
    word = {<<{32'h0000_00F1}}; $display("%h", word);
    q = '{3, 1, 2}; q = {q, 9, q[0:1]}; q.insert(1, 77); q.delete(0); $display("%p %p %p", q, q.unique(), q.max());
    $display("%s %s", rpn("3 4 + 2 *"), rpn("1 2 3"));
    sum = 0; for (int i = 0, j = 10; i < j; i++, j--) sum += i * j; $display("%0d", sum);
    begin : outer for (int i = 0; i < 5; i++) begin for (int j = 0; j < 5; j++) begin if (j == 3) break; if (i == j) continue; if (i == 3) disable outer; $write("%0d%0d ", i, j); end end end $display;
    do sum /= 2; while (sum > 3); $display("%0d", sum);
    begin int unsigned x = 32'hFFFF_FFF0; x >>>= 2; $display("%h %0d", x, $signed(32'hFFFF_FFF0) >>> 2); end
    repeat (3) begin static int n = 10; n++; $write("%0d ", n); end $display;
  end
endmodule
