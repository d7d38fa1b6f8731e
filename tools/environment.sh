# Sourced by the launchers: finds a Python, makes the environment from the lock files, checks the system libraries.
# Expects $root, the checkout.

say() { printf 'eager-owl: %s\n' "$1" >&2; }
stop() { say "$1"; exit 1; }

# Debian installs with apt when we are root; everybody else is told the names, once, in one line.
install_debian() {
  [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null || return 1
  say "installing the Debian packages: $*"
  { apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "$@"; } >"$root/.venv-apt.log" 2>&1 \
    || stop "apt-get could not install: $* (its words are in .venv-apt.log)"
  rm -f "$root/.venv-apt.log"
}

find_python() {
  for python in python3.13 python3.12 python3.11 python3; do
    command -v "$python" >/dev/null || continue
    "$python" -c 'import sys, venv, ensurepip; sys.exit(not (3, 11) <= sys.version_info[:2] < (3, 14))' 2>/dev/null && return 0
  done
  return 1
}

# make_environment LOCK: the environment holds at least what LOCK pins. The copy of the lock file is written
# last, so an installation that was interrupted is begun again.
make_environment() {
  local lock=$1 done_file="$root/.venv/installed-$1"
  cmp -s "$root/$lock" "$done_file" && return 0
  find_python || install_debian python3 python3-venv || true
  find_python || stop "needs Python 3.11 to 3.13 with venv (on Debian: python3 python3-venv)"
  exec 9>"$root/.venv.lock"
  command -v flock >/dev/null && flock 9
  cmp -s "$root/$lock" "$done_file" && return 0
  say "setting up the Python environment from $lock (once; about a minute)"
  [ -x "$root/.venv/bin/python" ] || "$python" -m venv --clear "$root/.venv" || stop "could not make $root/.venv"
  "$root/.venv/bin/python" -m pip install --quiet --disable-pip-version-check --require-hashes -r "$root/$lock" >&2 \
    || stop "the Python packages of $lock could not be installed (see above)"
  cp "$root/$lock" "$done_file"
  exec 9>&-
}

# Shared libraries that Qt loads, and the Debian package that has each.
qt_libraries="libEGL.so.1:libegl1 libGL.so.1:libgl1 libxkbcommon.so.0:libxkbcommon0 libdbus-1.so.3:libdbus-1-3
libfontconfig.so.1:libfontconfig1 libglib-2.0.so.0:libglib2.0-0 libxcb-cursor.so.0:libxcb-cursor0
libxkbcommon-x11.so.0:libxkbcommon-x11-0 libxcb-icccm.so.4:libxcb-icccm4 libxcb-image.so.0:libxcb-image0
libxcb-keysyms.so.1:libxcb-keysyms1 libxcb-render-util.so.0:libxcb-render-util0 libxcb-shape.so.0:libxcb-shape0
libxcb-xinerama.so.0:libxcb-xinerama0 libxcb-randr.so.0:libxcb-randr0 libxcb-xkb.so.1:libxcb-xkb1
libX11-xcb.so.1:libx11-xcb1 libpulse.so.0:libpulse0 libasound.so.2:libasound2 libatomic.so.1:libatomic1"

missing_qt_packages() {
  local known
  known=$(PATH="$PATH:/sbin:/usr/sbin" ldconfig -p 2>/dev/null) || return 0
  for pair in $qt_libraries; do
    case "$known" in *"${pair%%:*} "*) ;; *) printf '%s ' "${pair##*:}" ;; esac
  done
}

need_qt_libraries() {
  local packages
  packages=$(missing_qt_packages)
  [ -z "$packages" ] && return 0
  # shellcheck disable=SC2086
  install_debian $packages || stop "the window needs these system packages (Debian's names): $packages"
}
