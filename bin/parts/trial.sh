# A trial on a cluster of its own, which goes with it.

trial() { # NAME SCRIPT
  local var=var/$1
  mkdir -p var
  exec 8>"$var.lock"
  flock -n 8 || { echo "bin/$1 is running here already" >&2; exit 1; }
  python_environment dev
  trap 'trap - EXIT; stop_cluster '"$var"'-postgres; rm -rf '"$var"'-postgres' EXIT
  trap 'exit 130' INT
  trap 'exit 143' TERM HUP
  rm -rf "$var" "$var-postgres" && mkdir -p "$var"
  if [ -n "${TRIAL_ROLES:-}" ]; then serving_cluster "$var-postgres" 8>&-; else start_cluster "$var-postgres" 8>&-; fi
  export PYTHONPATH=$PWD/src:$PWD DJANGO_SETTINGS_MODULE=nivelum.settings NIVELUM_VAR=$PWD/$var
  export NIVELUM_SECRET_KEY=for-tests-only NIVELUM_HOSTS=127.0.0.1,localhost NIVELUM_SERVED_IN_THE_CLEAR=yes
  local port=${DATABASE_URL##*:}
  export TRIAL_RESTART="$PWD/bin/parts/restart-postgres $PWD/$var-postgres ${port%%/*}"
  "$python" -m nivelum.manage collectstatic --noinput -v 0 8>&-
  "$python" "$2" 8>&-
}
