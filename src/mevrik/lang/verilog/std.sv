// The built-in package of IEEE 1800-2017 (clause 15 and annex G): semaphores and mailboxes, written in the language itself.
package std;
  bit [31:0] changed = 0;              // every put and get changes it: who waits looks again

  class semaphore;
    int keys;
    function new(int keyCount = 0); keys = keyCount; endfunction
    function void put(int keyCount = 1); keys += keyCount; changed++; endfunction
    task get(int keyCount = 1); while (keys < keyCount) @(changed); keys -= keyCount; endtask
    function int try_get(int keyCount = 1);
      if (keys < keyCount) return 0;
      keys -= keyCount;
      return 1;
    endfunction
  endclass

  class process;
    typedef enum { FINISHED, RUNNING, WAITING, SUSPENDED, KILLED } state;
    int number;
    static function process self(); process p = new; p.number = $process_self(); return p; endfunction
    function state status(); return state'($process_status(number)); endfunction
    function void kill(); $process_kill(number); endfunction
    task await(); $process_await(number); endtask
    function void suspend(); $process_suspend(number); endfunction
    function void resume(); $process_resume(number); endfunction
    function void srandom(int seed); void'($seed_of(number, seed)); endfunction
    function string get_randstate(); return $state_of(number); endfunction
    function void set_randstate(string state); void'($restore_of(number, state)); endfunction
  endclass

  class drawing;                       // what every object has for its random numbers (18.13.3 to 18.13.5)
    function void srandom(int seed); void'($seed_of(this, seed)); endfunction
    function string get_randstate(); return $state_of(this); endfunction
    function void set_randstate(string state); void'($restore_of(this, state)); endfunction
  endclass

  class named_event;                   // an event that is a value: in an object, a list, an argument (15.5.5)
    int number;                        // of the event of the design that it stands for; 0: it is only here
    bit [31:0] times;
    time last;
    static bit [31:0] turn;
    static task pass(); turn <= turn + 1; @(turn); endtask       // until nonblocking updates are made
    function void fire(); if (number != 0) $event_fire(number); else count(); endfunction
    function void count(); times++; last = $moment(); endfunction
    function bit triggered(); return number != 0 ? $event_happened(number) : last == $moment(); endfunction
  endclass

  class mailbox #(type T = longint);
    T items [$];
    int most;
    function new(int bound = 0); most = bound; endfunction
    function int num(); return items.size(); endfunction
    task put(T message);
      while (most > 0 && items.size() >= most) @(changed);
      items.push_back(message);
      changed++;
    endtask
    task get(output T message);
      while (items.size() == 0) @(changed);
      message = items.pop_front();
      changed++;
    endtask
    task peek(output T message); while (items.size() == 0) @(changed); message = items[0]; endtask
    function int try_put(T message);
      if (most > 0 && items.size() >= most) return 0;
      items.push_back(message);
      changed++;
      return 1;
    endfunction
    function int try_get(inout T message);
      if (items.size() == 0) return 0;
      message = items.pop_front();
      changed++;
      return 1;
    endfunction
    function int try_peek(inout T message);
      if (items.size() == 0) return 0;
      message = items[0];
      return 1;
    endfunction
  endclass
endpackage
