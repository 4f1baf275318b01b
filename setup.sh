# Sourced by ./run and ./test: a virtual environment with locked versions, and the system libraries Qt needs.
# Does nothing when everything is there already.

cd "$(dirname "${BASH_SOURCE[0]}")" || exit 1

SYSTEM_PACKAGES="libgl1 libegl1 libfontconfig1 libglib2.0-0 libdbus-1-3 libxkbcommon0 libpulse0 libxrandr2 \
libxcb-cursor0 libxcb-icccm4 libxcb-keysyms1 libxcb-shape0 libxkbcommon-x11-0 libbrotli1 xvfb xauth"

have_system_packages() {
  local lib
  for lib in libGL.so.1 libEGL.so.1 libfontconfig.so.1 libglib-2.0.so.0 libdbus-1.so.3 libxkbcommon.so.0 libpulse.so.0 \
    libXrandr.so.2 libxcb-cursor.so.0 libxcb-icccm.so.4 libxcb-keysyms.so.1 libxcb-shape.so.0 libxkbcommon-x11.so.0; do
    [ -e "/usr/lib/$(uname -m)-linux-gnu/$lib" ] || [ -e "/usr/lib64/$lib" ] || [ -e "/usr/lib/$lib" ] || return 1
  done
  command -v Xvfb >/dev/null
}

install_system_packages() {
  have_system_packages && return 0
  if [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null; then
    echo "Mervid: installing system libraries with apt …" >&2
    apt-get update -qq >&2 || true
    # shellcheck disable=SC2086
    DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends $SYSTEM_PACKAGES >/dev/null 2>&1 && return 0
    echo "Mervid: apt could not install the libraries; try: apt-get install $SYSTEM_PACKAGES" >&2
  elif command -v apt-get >/dev/null; then
    echo "Mervid needs some system libraries. Run this once, then start again:" >&2
    echo "  sudo apt-get install --no-install-recommends $SYSTEM_PACKAGES" >&2
  else
    echo "Mervid: some system libraries may be missing (names as in Debian): $SYSTEM_PACKAGES" >&2
  fi
  return 1
}

# A sound server and a desktop bus for the tests that use real ones; without them those are skipped and say so.
install_test_servers() {
  command -v openbox >/dev/null && command -v pulseaudio >/dev/null && command -v parec >/dev/null && command -v dbus-daemon >/dev/null &&
    command -v dbus-send >/dev/null && return 0
  if [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null; then
    echo "Mervid: installing a sound server, a bus and a window manager for the tests with apt …" >&2
    apt-get update -qq >&2 || true
    DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends pulseaudio pulseaudio-utils dbus openbox \
      >/dev/null 2>&1 && return 0
  fi
  echo "Mervid: some tests need: apt-get install pulseaudio pulseaudio-utils dbus openbox" >&2
}

find_python() {
  local p
  for p in python3.11 python3.12 python3.13 python3; do
    if command -v "$p" >/dev/null && "$p" -c 'import sys, venv; sys.exit(sys.version_info < (3, 11))' 2>/dev/null; then
      echo "$p"
      return 0
    fi
  done
  echo "Mervid needs Python 3.11 or newer with its venv module (Debian: apt-get install python3-venv)." >&2
  return 1
}

set_up() {
  local stamp=.venv/.mervid-setup wanted python
  wanted=$(cat requirements.lock pyproject.toml | cksum)
  [ -e "$stamp" ] && [ "$(cat "$stamp")" = "$wanted" ] && return 0
  # what is still missing is said; Qt itself says the rest
  install_system_packages || [ "$(id -u)" != 0 ] || true
  python=$(find_python) || return 1
  echo "Mervid: setting up (once; a few minutes) …" >&2
  [ -x .venv/bin/python ] || "$python" -m venv .venv || return 1
  .venv/bin/python -m pip install -q --disable-pip-version-check -r requirements.lock >&2 || return 1
  .venv/bin/python -m pip install -q --disable-pip-version-check --no-deps -e . >&2 || return 1
  echo "$wanted" >"$stamp"
}
