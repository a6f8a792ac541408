# Debian packages: installs what is missing where it may, otherwise says which.

# need_packages PACKAGE…
need_packages() {
  local missing=()
  local package
  for package in "$@"; do
    dpkg-query -W -f='${Status}' "$package" 2>/dev/null | grep -q 'ok installed' || missing+=("$package")
  done
  [ ${#missing[@]} -eq 0 ] && return 0
  local become=()
  if [ "$(id -u)" -ne 0 ]; then
    if command -v sudo >/dev/null && sudo -n true 2>/dev/null; then
      become=(sudo -n)
    else
      echo "Missing Debian packages, and no right to install them. As root: apt-get install ${missing[*]}" >&2
      return 1
    fi
  fi
  echo "Installing Debian packages: ${missing[*]}"
  # An installation broken off in the middle is finished first; another that is under way is waited for.
  [ -z "$(dpkg --audit)" ] || DEBIAN_FRONTEND=noninteractive "${become[@]}" dpkg --configure -a >/dev/null
  "${become[@]}" apt-get update -qq
  DEBIAN_FRONTEND=noninteractive "${become[@]}" apt-get install -y -qq -o DPkg::Lock::Timeout=120 --no-install-recommends "${missing[@]}" >/dev/null
}

# A package's name, or nothing where its command is already here from elsewhere.
unless_command() {
  command -v "$1" >/dev/null || echo "$2"
}

# Python with its own environments, 3.11 or newer.
need_python() {
  if ! python3 -c 'import sys, venv, ensurepip; assert sys.version_info >= (3, 11)' 2>/dev/null; then
    need_packages python3 python3-venv
  fi
  python3 -c 'import sys; sys.exit(sys.version_info < (3, 11))' || {
    echo "Python 3.11 or newer is needed; python3 here is $(python3 --version)" >&2
    return 1
  }
}
