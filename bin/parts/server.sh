# The application's own process in this checkout, by its pid in var/server.pid and its own environment.

server_pid() {
  local pid
  pid=$(cat var/server.pid 2>/dev/null) || return 1
  tr '\0' '\n' 2>/dev/null <"/proc/$pid/environ" | grep -qxF "NIVELUM_VAR=$PWD/var" &&
    tr '\0' ' ' <"/proc/$pid/cmdline" | grep -q 'serve_demo' && echo "$pid"
}

# stop_server: only ever that process; killed if it does not go by itself
stop_server() {
  local pid
  if pid=$(server_pid); then
    kill "$pid" 2>/dev/null || true
    for _ in $(seq 100); do
      server_pid >/dev/null || break
      sleep 0.1
    done
    ! server_pid >/dev/null || kill -9 "$pid" 2>/dev/null || true
  fi
  rm -f var/server.pid
}
