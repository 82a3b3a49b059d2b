# Sourced by ./start and ./test: brings what they lack. POSIX sh; a fresh Debian 12 needs nothing
# else.

say_and_stop() { echo "$NAME: $1" >&2; exit 1; }

# need_packages PACKAGE… : installs the Debian packages that are missing, or prints the one line to
# run.
need_packages() {
  missing=""
  for package in "$@"; do
    dpkg-query -W -f '${Status}' "$package" 2>/dev/null | grep -q "install ok installed" \
      || missing="$missing $package"
  done
  [ -z "$missing" ] && return 0
  if [ "$(id -u)" -ne 0 ]; then
    say_and_stop \
      "Debian packages are missing; run: sudo apt-get install --no-install-recommends$missing"
  fi
  echo "installing:$missing"
  log="$(mktemp)"
  { apt-get update -qq &&
    DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends $missing; } \
    >"$log" 2>&1 ||
    { tail -n 3 "$log" >&2; say_and_stop "apt-get could not install$missing; see the lines above"; }
  rm -f "$log"
}

# need_venv [dev] : the virtual environment from requirements.lock and the compiled start engine,
# each made again only
# when what it is made from changes; with dev, what tests and tools need beside it, too.
need_venv() {
  need_python_packages
  [ "${1:-}" != dev ] || need_dev_packages
  .venv/bin/python tools/compile.py ||
    say_and_stop "the start engine could not be compiled; see the lines above"
}

need_python_packages() {
  free_mb=$(df -Pm . | awk 'NR==2 {print $4}')
  stamp=".venv/made-from-$(cksum < requirements.lock | tr ' ' '-')"
  [ -f "$stamp" ] && return 0
  [ "$free_mb" -ge 1500 ] ||
    say_and_stop "only $free_mb MB free here; the Python packages need 1500 MB"
  python=""
  for candidate in python3.11 python3 /usr/bin/python3; do
    "$candidate" -c 'import sys, venv, ensurepip; sys.exit(sys.version_info < (3, 11))' \
      2>/dev/null && { python="$candidate"; break; }
  done
  [ -n "$python" ] ||
    say_and_stop "no Python 3.11 or newer with venv; run: apt-get install python3 python3-venv"
  echo "installing Python packages"
  rm -rf .venv
  "$python" -m venv .venv || say_and_stop "the virtual environment could not be made in .venv"
  pip_install requirements.lock
  : > "$stamp"
}

need_dev_packages() {
  dev_stamp=".venv/dev-made-from-$(cksum < requirements-dev.lock | tr ' ' '-')"
  [ -f "$dev_stamp" ] && return 0
  echo "installing Python packages for tests"
  pip_install requirements-dev.lock
  : > "$dev_stamp"
}

pip_install() {
  log="$(mktemp)"
  .venv/bin/python -m pip install -q --disable-pip-version-check --no-input --no-deps \
    -r "$1" >"$log" 2>&1 \
    || { tail -n 3 "$log" >&2; say_and_stop "pip could not install $1; see the lines above"; }
  rm -f "$log"
}

SERVER_PACKAGES="python3 python3-venv python3-dev gcc pkg-config libmariadb-dev mariadb-server \
mariadb-client libpango-1.0-0 libpangoft2-1.0-0 libharfbuzz-subset0 mosquitto"
