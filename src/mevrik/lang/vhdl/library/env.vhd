-- std.env (IEEE 1076-2008 16.5).
package env is
  procedure x_env_stop(status : integer);
  procedure x_env_finish(status : integer);
  procedure stop(status : integer);
  procedure stop;
  procedure finish(status : integer);
  procedure finish;
  function resolution_limit return delay_length;
end package;

package body env is
  procedure stop(status : integer) is
  begin
    x_env_stop(status);
  end procedure;
  procedure stop is
  begin
    x_env_stop(0);
  end procedure;
  procedure finish(status : integer) is
  begin
    x_env_finish(status);
  end procedure;
  procedure finish is
  begin
    x_env_finish(0);
  end procedure;
  function resolution_limit return delay_length is
  begin
    return 1 fs;
  end function;
end package body;
