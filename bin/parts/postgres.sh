# A PostgreSQL cluster of this checkout's own, under var/, on a free port of loopback only. Wants $python.
#
# Root cannot run a server, so root runs it as the user postgres. That user may not be able to reach the
# checkout (root's home, say); an open folder can be used by whoever has it open, so the server is given the
# cluster's folder as file descriptor 9 and only ever names it /proc/self/fd/9.

postgres_programs() {
  local found
  found=$(find /usr/lib/postgresql -maxdepth 3 -name pg_ctl -path '*/bin/*' 2>/dev/null | sort -V | tail -n 1)
  [ -n "$found" ] || { echo "PostgreSQL's server programs are not under /usr/lib/postgresql" >&2; return 1; }
  dirname "$found"
}

# in_cluster FOLDER COMMAND…: the command as the server's user, with the cluster open as descriptor 9
in_cluster() {
  local folder=$1
  shift
  if [ "$(id -u)" -eq 0 ]; then
    (exec 9<"$folder" && cd / && exec runuser -u postgres -- "$@")
  else
    (exec 9<"$folder" && cd / && exec "$@")
  fi
}

# The server's process, where one of this very cluster is running. The pid in the file may since have become
# somebody else's: it is ours only if it works in our folder.
cluster_pid() {
  local pid
  pid=$(head -n 1 "$1/data/postmaster.pid" 2>/dev/null) || return 1
  [ "$(stat -L -c %d:%i "/proc/$pid/cwd" 2>/dev/null)" = "$(stat -c %d:%i "$1/data")" ] && echo "$pid"
}

# start_cluster FOLDER [SETTING…]: starts it, made first if need be; exports DATABASE_URL
start_cluster() {
  local folder=$PWD/$1 programs port attempt
  shift
  programs=$(postgres_programs)
  mkdir -p "$folder"
  if [ "$(id -u)" -eq 0 ]; then
    chown postgres: "$folder"
  elif [ ! -O "$folder" ]; then
    echo "$folder belongs to $(stat -c %U "$folder"): start as root as before, or remove it" >&2
    return 1
  fi
  chmod 700 "$folder"
  if [ ! -s "$folder/data/PG_VERSION" ]; then
    rm -rf "$folder/data"
    (umask 077 && head -c 24 /dev/urandom | base64 | tr '+/' '-_' >"$folder/password")
    [ "$(id -u)" -ne 0 ] || chown postgres: "$folder/password"
    in_cluster "$folder" "$programs/initdb" -D /proc/self/fd/9/data -U nivelum -A scram-sha-256 -E UTF8 \
      --locale=C.UTF-8 --pwfile=/proc/self/fd/9/password >/dev/null
  fi
  stop_cluster "${folder#"$PWD"/}"
  rm -f "$folder/data/postmaster.pid"
  for attempt in 1 2 3 4 5; do
    port=$("$python" -c 'import socket; s = socket.socket(); s.bind(("127.0.0.1", 0)); print(s.getsockname()[1])')
    if in_cluster "$folder" "$programs/pg_ctl" start -w -s -D /proc/self/fd/9/data -l /proc/self/fd/9/log \
      -o "-c listen_addresses=127.0.0.1 -c port=$port -c unix_socket_directories='' $*" >/dev/null; then
      DATABASE_URL=postgres://nivelum:$(cat "$folder/password")@127.0.0.1:$port/postgres
      export DATABASE_URL
      return 0
    fi
    cluster_pid "$folder" >/dev/null && stop_cluster "${folder#"$PWD"/}"
  done
  echo "PostgreSQL did not start; its log is $folder/log" >&2
  return 1
}

# running_cluster FOLDER: exports DATABASE_URL of the server that runs in that folder
running_cluster() {
  local folder=$PWD/$1
  cluster_pid "$folder" >/dev/null || { echo "no PostgreSQL runs in $folder" >&2; return 1; }
  DATABASE_URL=postgres://nivelum:$(cat "$folder/password")@127.0.0.1:$(sed -n 4p "$folder/data/postmaster.pid")/postgres
  export DATABASE_URL
}

# stop_cluster FOLDER: only ever the server that runs in that folder
stop_cluster() {
  local folder=$PWD/$1 pid
  if pid=$(cluster_pid "$folder") && [ -n "$pid" ]; then
    kill -INT "$pid" 2>/dev/null || true
    for _ in $(seq 100); do
      cluster_pid "$folder" >/dev/null || break
      sleep 0.1
    done
  fi
}
