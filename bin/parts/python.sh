# The Python environment in var/venv, with what requirements/NAME.txt pins. Wants packages.sh.

# install_pinned VENV FILE: what the file pins, by the fast installer; by the slow one where that cannot be had.
install_pinned() {
  local pip="$1/bin/pip install -q --disable-pip-version-check --require-hashes -r" fast=requirements/installer.txt
  # shellcheck disable=SC2086
  if [ -f $fast ] && { [ -x "$1/bin/uv" ] || $pip $fast; } 2>/dev/null; then
    "$1/bin/uv" pip install -q --python "$1/bin/python" --require-hashes -r "$2" && return 0
  fi
  # shellcheck disable=SC2086
  $pip "$2"
}

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
  install_pinned "$venv" "$pinned"
  echo "$wanted" >"$venv/$1.pinned"
  rm -f "$venv.half"
  exec 7>&-
}
