module tb;
  import kit::*, lock_env::*;
  env e;
  initial begin
    e = new("top");
    config_db#(int)::set("top.b.count", 5);
    e.build_all();
    e.show();
    fork e.go_all(); join
    #100;
    factory::get().override("item", "bad_item");
    begin
      automatic item x = item::type_id::create("x");
      automatic object c = x.clone();
      x.act = HOLD;
      $display("%s %s %b %b", x.kind(), c.kind(), x.compare(c), x.compare(x));
    end
    foreach (e.s.hits[k]) $display("%s %0d", k.name(), e.s.hits[k]);
    $display("%0d %0d", e.s.total, object::made);
    $finish(0);
  end
endmodule
