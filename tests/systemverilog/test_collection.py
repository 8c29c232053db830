"""Objects, lists and strings are given back when nothing leads to them any more, and not before (IEEE 1800-2017 8.4: automatic memory
management). Each program runs with a collection at every moment."""

from __future__ import annotations

import resource
from pathlib import Path

from mevrik.engine.job import Channel, Job
from mevrik.engine.run import Run, RunOptions
from mevrik.lang.analysis import analyse

BOOK = """`timescale 1ns/1ns
package logbook;
  class entry; string text; int k; entry next; function new(string t, int n = 0); text = t; k = n; endfunction endclass
  typedef struct { bit flag; string name; logic [2:0] tag; entry e; int q [$]; } card;
  typedef struct { bit [4:0] odd; card c; string pair [2]; entry both [2]; } box;
  class keeper #(type T = int);
    static T all [$];
    static string label = "none";
    T mine [int];
    card c; box b; string lines [$]; T fixed [4];
  endclass
  function automatic string mk(int i); return $sformatf("entry %0d", i); endfunction
endpackage
interface gauge; logbook::entry e; string s; endinterface
module tb;
  import logbook::*;
  gauge g ();
  virtual gauge view = g;
  string lost;
  task automatic is(string found, int i); if (found != mk(i)) $error("'%s' is not '%s'", found, mk(i)); endtask
"""


def ended(tmp_path: Path, text: str, **options: int) -> tuple[str, list[str], int]:
    """How a run ended, what it said, and by how many KiB the process has grown."""
    source = tmp_path / "tb.sv"
    source.write_text(text)

    def work(channel: Channel) -> None:
        analysis = analyse([source])
        design = analysis.elaborate("tb")
        assert design is not None, [d.message for d in analysis.diagnostics]
        said: list[str] = []
        before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
        run = Run(design, analysis.sources, RunOptions(**options), lambda m: said.append(m.text))
        outcome = run.finish(run.go())
        channel.send((outcome.ended, said, resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before))

    (found,) = Job(work).events()
    return found


def kept(tmp_path: Path, declared: str, made: str, checked: str) -> None:
    """Garbage is made between `made` and `checked`, so that what was given back too early is overwritten."""
    text = f"""{BOOK}{declared}
      task automatic waste(); repeat (20) begin entry e; e = new($sformatf("waste %0t", $time)); e.next = e; #1; end endtask
      initial begin {made} waste(); {checked} $finish; end
    endmodule"""
    how, said, _ = ended(tmp_path, text, collect=0)
    assert (how, said) == ("finish", [])


def test_variables(tmp_path: Path) -> None:
    """Handles, strings and lists in variables, fixed arrays and structures, whatever stands before them there."""
    kept(
        tmp_path,
        "entry e, es [3]; string s, ss [2][2]; box b, bs [2]; card cards [string]; string by [entry]; entry two [$][2]; string dyn [];",
        """e = new(mk(1)); es[2] = new(mk(2)); s = mk(3); ss[1][0] = mk(4); b.c.name = mk(5); b.c.e = new(mk(6)); b.c.q = '{7, 8};
           b.pair = '{mk(9), mk(10)}; b.both[1] = new(mk(11)); bs[1] = b; bs[1].pair[0] = mk(12); cards[mk(13)] = b.c; cards[mk(13)].name = mk(14);
           by[e] = mk(15); two.push_back('{null, e}); dyn = new[3]; dyn[2] = mk(16); e = null; g.e = new(mk(17)); view.s = mk(18);""",
        """is(es[2].text, 2); is(s, 3); is(ss[1][0], 4); is(b.c.name, 5); is(b.c.e.text, 6); is(b.pair[1], 10); is(b.both[1].text, 11);
           is(bs[1].pair[0], 12); is(bs[1].both[1].text, 11); is(cards[mk(13)].name, 14); is(cards[mk(13)].e.text, 6); is(by[two[0][1]], 15);
           is(two[0][1].text, 1); is(dyn[2], 16); is(view.e.text, 17); is(g.s, 18);
           if (b.c.q.size() != 2 || bs[1].c.q[1] != 8 || cards[mk(13)].q[0] != 7) $error("a queue is lost");""",
    )


def test_objects_lead_to_others(tmp_path: Path) -> None:
    kept(
        tmp_path,
        "entry chain; keeper #(entry) k; keeper #(string) t; mailbox #(entry) letters = new; mailbox #(string) words = new(2);",
        """for (int i = 0; i < 50; i++) begin automatic entry e = new(mk(i), i); e.next = chain; chain = e; #1; end
           k = new; t = new; k.all.push_back(new(mk(60))); k.mine[3] = new(mk(61)); k.c.name = mk(62); k.b.c.e = new(mk(63));
           k.b.both[0] = new(mk(64)); k.lines = '{mk(65), mk(66)}; k.fixed[3] = new(mk(67)); t.all.push_back(mk(68)); t.mine[9] = mk(69);
           keeper #(entry)::label = mk(70); letters.put(new(mk(71))); words.put(mk(72)); words.put(mk(73));""",
        """begin
             int n = 0; string s; entry e;
             for (e = chain; e != null; e = e.next) begin n++; is(e.text, e.k); end
             if (n != 50) $error("%0d", n);
             is(k.all[0].text, 60); is(k.mine[3].text, 61); is(k.c.name, 62); is(k.b.c.e.text, 63); is(k.b.both[0].text, 64);
             is(k.lines[1], 66); is(k.fixed[3].text, 67); is(t.all[0], 68); is(t.mine[9], 69); is(keeper #(entry)::label, 70);
             letters.get(e); is(e.text, 71); words.get(s); is(s, 72); words.get(s); is(s, 73);
           end""",
    )


def test_processes_and_what_is_still_to_come(tmp_path: Path) -> None:
    """Automatic variables of tasks and branches that wait; values of assignments with delays; what prints at the end of a moment."""
    kept(
        tmp_path,
        """entry later; string slow;
        task automatic hold(int i, string given);
          entry mine = new(mk(100 + i), i); card c = '{1, mk(200 + i), 3'b101, mine, '{i, i + 1}}; box b; entry arr [2]; string q [$];
          b.c = c; b.pair[1] = mk(300 + i); b.both[1] = new(mk(400 + i)); arr[1] = new(mk(500 + i)); q.push_back(mk(600 + i));
          #(5 + i);
          fork begin automatic entry inner = new(mk(700 + i)); #7 is(inner.text, 700 + i); is(mine.text, 100 + i); end join_none
          #9 is(c.name, 200 + i); is(c.e.text, 100 + i); is(b.c.name, 200 + i); is(b.pair[1], 300 + i); is(b.both[1].text, 400 + i);
          is(arr[1].text, 500 + i); is(q[0], 600 + i); is(given, i);
          if (c.q[1] != i + 1 || b.c.q.size() != 2) $error("a queue is lost");
        endtask""",
        """later <= #15 new(mk(1)); slow <= #16 mk(2);
           for (int i = 3; i < 8; i++) fork automatic int j = i; hold(j, mk(j)); join_none""",
        "is(later.text, 1); is(slow, 2); wait fork;",
    )


def test_lists_that_variables_left_are_used_once(tmp_path: Path) -> None:
    """A list whose variable has ended is ready for another one; a collection doesn't make it ready a second time."""
    kept(
        tmp_path,
        "function automatic int size(int n); int q [$]; repeat (n) q.push_back(n); return q.size(); endfunction int a [$], b [$], c [$], d [$];",
        'for (int i = 0; i < 4; i++) begin if (size(i) != i) $error("size"); #1; end',
        """a.push_back(1); b.push_back(2); c.push_back(3); d.push_back(4); #1;
           if (a != '{1} || b != '{2} || c != '{3} || d != '{4}) $error("%p %p %p %p", a, b, c, d);""",
    )


def test_memory_stays_bounded(tmp_path: Path) -> None:
    """A million objects, each with a string and a queue of its own and in a ring with itself: all of them would take more than 300 MB."""
    text = f"""{BOOK}
      class act; entry e; int q [$]; string s; endclass
      initial begin
        for (int i = 0; i < 10000; i++) begin
          repeat (100) begin automatic act a = new; a.e = new($sformatf("act %0d of %0d", a.q.size(), $urandom)); a.e.next = a.e; a.q = '{{i, i}}; end
          #1;
        end
        $finish;
      end
    endmodule"""
    how, said, grown = ended(tmp_path, text)
    assert (how, said) == ("finish", []) and grown < 200_000
