# The Python environment in var/venv, with what requirements/NAME.txt pins. Wants packages.sh.

# python_environment runtime|dev: sets $python
python_environment() {
  local pinned=requirements/$1.txt venv=$PWD/var/venv
  python=$venv/bin/python
  local wanted
  wanted=$(sha256sum <"$pinned")
  [ -x "$python" ] && [ "$(cat "$venv/$1.pinned" 2>/dev/null)" = "$wanted" ] && return 0
  need_python
  echo "Installing Python packages into var/venv"
  exec 7>"$venv.lock"  # bin/start and bin/test install into the same one
  flock 7
  # What was broken off in the middle is begun anew: nothing says how much of it is there.
  [ ! -e "$venv.half" ] || rm -rf "$venv"
  : >"$venv.half"
  [ -x "$python" ] || python3 -m venv --clear "$venv"
  "$venv/bin/pip" install -q --disable-pip-version-check --require-hashes -r "$pinned"
  echo "$wanted" >"$venv/$1.pinned"
  rm -f "$venv.half"
  exec 7>&-
}
