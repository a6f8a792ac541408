# A PostgreSQL cluster of this checkout's own, under var/, on a free port of loopback only. Wants $python.
#
# Root cannot run a server, so root runs it as the user postgres. That user may not be able to reach the
# checkout (root's home, say); an open folder can be used by whoever has it open, so the server is given the
# cluster's folder as file descriptor 9 and only ever names it /proc/self/fd/9.

# postgres_programs [FOLDER]: where the programs are; for a cluster that is there, those of its own version
postgres_programs() {
  local found all=${POSTGRES_FOLDER:-/usr/lib/postgresql} version
  version=$(cat "${1:-/nowhere}/data/PG_VERSION" 2>/dev/null) || version=
  found=$(find "$all" -maxdepth 3 -name pg_ctl -path "*/${version:-*}/bin/*" 2>/dev/null | sort -V | tail -n 1)
  if [ -z "$found" ] && [ -n "$version" ]; then
    echo "$1 holds data of PostgreSQL $version, whose programs are not under $all." >&2
    echo "Install postgresql-$version, or start over without that data: bin/start --reset" >&2
    return 1
  fi
  [ -n "$found" ] || { echo "PostgreSQL's server programs are not under $all" >&2; return 1; }
  dirname "$found"
}

# room_for FOLDER: says in our words what else a server would say in its own
room_for() {
  mkdir -p "$1" 2>/dev/null && : 2>/dev/null >"$1/.room" && rm -f "$1/.room" || {
    echo "$1 cannot be written: is the checkout read-only, or somebody else's?" >&2
    return 1
  }
  local free
  free=$(df -Pm "$1" | awk 'NR == 2 { print $4 }')
  [ "$free" -ge "${LEAST_FREE:-300}" ] || { echo "Only $free MB are free where $1 is: at least ${LEAST_FREE:-300} are wanted" >&2; return 1; }
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

# cluster_roles FOLDER PROGRAMS PORT: three roles beside the cluster's own, each with a password of its own: the owner of
# the tables, the application, and one that can only make a database to look into a backup. Exports their addresses.
cluster_roles() {
  local folder=$1 programs=$2 port=$3 role
  for role in owner app check; do
    [ -s "$folder/password-$role" ] || (umask 077 && head -c 24 /dev/urandom | base64 | tr '+/' '-_' >"$folder/password-$role")
  done
  PGPASSWORD=$(cat "$folder/password") PGOPTIONS=-cclient_min_messages=warning "$programs/psql" -X -q -v ON_ERROR_STOP=1 \
    -v owner="$(cat "$folder/password-owner")" -v app="$(cat "$folder/password-app")" \
    -v check="$(cat "$folder/password-check")" -h 127.0.0.1 -p "$port" -U nivelum -d postgres >/dev/null <<'SQL'
SELECT format('CREATE ROLE %I LOGIN', name) FROM unnest(ARRAY['nivelum_owner', 'nivelum_app', 'nivelum_check']) AS name
  WHERE name NOT IN (SELECT rolname FROM pg_roles) \gexec
ALTER ROLE nivelum_owner NOSUPERUSER NOCREATEDB NOCREATEROLE PASSWORD :'owner';
ALTER ROLE nivelum_app NOSUPERUSER NOCREATEDB NOCREATEROLE PASSWORD :'app';
ALTER ROLE nivelum_check NOSUPERUSER CREATEDB NOCREATEROLE PASSWORD :'check';
REVOKE ALL ON DATABASE postgres FROM PUBLIC;
GRANT CONNECT ON DATABASE postgres TO nivelum_app;
ALTER DATABASE postgres OWNER TO nivelum_owner;
ALTER SCHEMA public OWNER TO pg_database_owner;
SELECT format('ALTER %s %s OWNER TO nivelum_owner', CASE relkind WHEN 'S' THEN 'SEQUENCE' ELSE 'TABLE' END, c.oid::regclass)
  FROM pg_class c WHERE relnamespace = 'public'::regnamespace AND relkind IN ('r', 'S')
  AND relowner <> 'nivelum_owner'::regrole
  AND NOT EXISTS (SELECT FROM pg_depend d WHERE d.objid = c.oid AND d.deptype IN ('a', 'i') AND relkind = 'S') \gexec
SELECT format('ALTER ROUTINE %s OWNER TO nivelum_owner', oid::regprocedure) FROM pg_proc
  WHERE pronamespace = 'public'::regnamespace AND proowner <> 'nivelum_owner'::regrole \gexec
SQL
  cluster_addresses "$folder" "$port"
}

cluster_addresses() {
  DATABASE_URL=postgres://nivelum_app:$(cat "$1/password-app")@127.0.0.1:$2/postgres
  NIVELUM_OWNER_URL=postgres://nivelum_owner:$(cat "$1/password-owner")@127.0.0.1:$2/postgres
  NIVELUM_CHECK_URL=postgres://nivelum_check:$(cat "$1/password-check")@127.0.0.1:$2/template1
  export DATABASE_URL NIVELUM_OWNER_URL NIVELUM_CHECK_URL
}

# start_cluster FOLDER [SETTING…]: starts it, made first if need be; exports DATABASE_URL, as the role that may do all
start_cluster() {
  local folder=$PWD/$1 programs port attempt
  shift
  room_for "$folder" || return 1
  programs=$(postgres_programs "$folder") || return 1
  if [ "$(id -u)" -eq 0 ]; then
    chown postgres: "$folder"
  elif [ ! -O "$folder" ]; then
    echo "$folder belongs to $(stat -c %U "$folder"): start as root as before, or remove it" >&2
    return 1
  fi
  chmod 700 "$folder"
  if [ ! -s "$folder/data/PG_VERSION" ]; then
    rm -rf "$folder/data" "$folder/data.half"
    (umask 077 && head -c 24 /dev/urandom | base64 | tr '+/' '-_' >"$folder/password")
    [ "$(id -u)" -ne 0 ] || chown postgres: "$folder/password"
    in_cluster "$folder" "$programs/initdb" -D /proc/self/fd/9/data.half -U nivelum -A scram-sha-256 -E UTF8 \
      --locale=C.UTF-8 --pwfile=/proc/self/fd/9/password >/dev/null
    mv "$folder/data.half" "$folder/data"  # whole, or not there: it may be broken off at any moment
  fi
  stop_cluster "${folder#"$PWD"/}"
  rm -f "$folder/data/postmaster.pid"
  for attempt in 1 2 3 4 5; do
    port=$("$python" -c 'import socket; s = socket.socket(); s.bind(("127.0.0.1", 0)); print(s.getsockname()[1])')
    if in_cluster "$folder" "$programs/pg_ctl" start -w -s -D /proc/self/fd/9/data -l /proc/self/fd/9/log \
      -o "-c listen_addresses=127.0.0.1 -c port=$port -c unix_socket_directories='' $*" >/dev/null; then
      DATABASE_URL=postgres://nivelum:$(cat "$folder/password")@127.0.0.1:$port/postgres
      export DATABASE_URL
      cluster_port=$port
      return 0
    fi
    cluster_pid "$folder" >/dev/null && stop_cluster "${folder#"$PWD"/}"
  done
  echo "PostgreSQL did not start; its log is $folder/log" >&2
  return 1
}

# serving_cluster FOLDER: starts it for the application, whose role owns nothing; exports the addresses of all three
serving_cluster() {
  start_cluster "$1" && cluster_roles "$PWD/$1" "$(postgres_programs "$PWD/$1")" "$cluster_port"
}

# running_cluster FOLDER: exports the addresses of the server that runs in that folder
running_cluster() {
  local folder=$PWD/$1
  cluster_pid "$folder" >/dev/null || { echo "no PostgreSQL runs in $folder" >&2; return 1; }
  cluster_addresses "$folder" "$(sed -n 4p "$folder/data/postmaster.pid")"
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
