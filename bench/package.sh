#!/usr/bin/env bash
# The Debian package, proven in fresh systems: installed, run, shown, purged; and built twice with one hash.
#
#     bench/package.sh                 both releases of Debian, and a second build
#     bench/package.sh bookworm        one release, no second build
#
# Needs root, debootstrap and ./package's dist/. The mirror is the one that this machine's apt uses. In each system:
# apt installs the package and nothing else, `mervid --version`, `mervid prepare` on a demo track, the window under Xvfb
# for some seconds, `mervid config`, the manual page, a second start's file list; then purge, and what is left over.
set -eu
cd "$(dirname "$0")/.."
suites=("$@")
[ ${#suites[@]} -eq 0 ] && suites=(bookworm trixie)
out=build/chroots
mkdir -p "$out"
deb=$(ls dist/mervid_*.deb) || { echo "Run ./package first." >&2; exit 2; }
command -v debootstrap >/dev/null || apt-get install -y -qq debootstrap >/dev/null
mirror=$(awk '/^URIs:/ { print $2; exit } /^deb / { print $2; exit }' /etc/apt/sources.list /etc/apt/sources.list.d/* 2>/dev/null || true)
fell=0

check() { # WORDS COMMAND...: says how it went
  local words=$1
  shift
  if "$@" >"$out/last.log" 2>&1; then echo "  ok    $words"; else
    echo "  FELL  $words"
    tail -5 "$out/last.log"
    fell=1
  fi
}

files_of() { # all files of a system but what apt and dpkg keep for themselves
  (cd "$1" && find . -xdev \( -path ./proc -o -path ./dev -o -path ./sys -o -path ./tmp -o -path ./var/lib/apt \
    -o -path ./var/cache -o -path ./var/log -o -path ./var/lib/dpkg \) -prune -o -print | sort)
}

for suite in "${suites[@]}"; do
  echo "Debian $suite"
  if [ ! -d "$out/$suite.base" ]; then
    rm -rf "$out/$suite.part"
    debootstrap --variant=minbase "$suite" "$out/$suite.part" "$mirror" >"$out/$suite.log" 2>&1
    cp /etc/resolv.conf "$out/$suite.part/etc/resolv.conf" 2>/dev/null || true
    cp -r /etc/apt/apt.conf.d/. "$out/$suite.part/etc/apt/apt.conf.d/" 2>/dev/null || true
    chroot "$out/$suite.part" sh -c 'echo "APT::Sandbox::User \"root\"; Acquire::Check-Valid-Until \"false\";" >/etc/apt/apt.conf.d/99bench; apt-get update -qq' >>"$out/$suite.log" 2>&1
    # the virtual screen is the test's, not the package's
    chroot "$out/$suite.part" apt-get install -y -qq --no-install-recommends xvfb >>"$out/$suite.log" 2>&1
    mv "$out/$suite.part" "$out/$suite.base"
  fi
  root=$out/$suite.now
  rm -rf "$root"
  cp -a "$out/$suite.base" "$root"
  mount -t proc proc "$root/proc" 2>/dev/null || mount --rbind /proc "$root/proc" 2>/dev/null || true
  cp "$deb" "$root/tmp/mervid.deb"
  cp "mervid/demo/tracks/Copper Ferry.ogg" "$root/tmp/"
  before=$(mktemp)
  files_of "$root" >"$before"
  in_it() { chroot "$root" env -i HOME=/tmp/home PATH=/usr/sbin:/usr/bin:/sbin:/bin LC_ALL=C.UTF-8 DEBIAN_FRONTEND=noninteractive "$@"; }
  check "installs with what apt finds" in_it apt-get install -y -qq --no-install-recommends /tmp/mervid.deb
  check "mervid --version" in_it mervid --version
  check "mervid prepare writes two files" in_it sh -c 'mervid prepare "/tmp/Copper Ferry.ogg" --out /tmp/out && test -s "/tmp/out/Copper Ferry.jams" && test -s "/tmp/out/Copper Ferry.beats.txt"'
  check "the window is painted under Xvfb, and closes" in_it sh -c 'Xvfb :9 -screen 0 1280x800x24 -nolisten tcp >/dev/null 2>&1 & sleep 2; DISPLAY=:9 MERVID_QUIT_AFTER=12 mervid --demo; r=$?; kill %1; grep -q Painted /tmp/home/.local/state/mervid/mervid.log && exit $r'
  check "mervid config, a wrong word ends in 2" in_it sh -c 'mervid config >/dev/null && { mervid --nonsense 2>/dev/null; test $? = 2; }'
  check "manual pages, completion, desktop files, licences" in_it sh -c 'test -s /usr/share/applications/mervid.desktop && test -s /usr/share/bash-completion/completions/mervid && test -s /usr/share/doc/mervid/mervid.cdx.json && dpkg -L mervid | grep -q "man1/mervid-prepare.1.gz"'
  check "purge" in_it sh -c 'apt-get purge -y -qq mervid && apt-get autoremove -y -qq --purge'
  after=$(mktemp)
  files_of "$root" >"$after"
  left=$(comm -13 "$before" "$after" | grep -iE 'mervid' || true)
  if [ -z "$left" ]; then echo "  ok    nothing of Mervid is left over"; else
    echo "  FELL  left over:"
    echo "$left" | head
    fell=1
  fi
  umount -l "$root/proc" 2>/dev/null || true
  rm -rf "$root" "$before" "$after"
done

if [ $# -eq 0 ]; then
  echo "A second build"
  first=$(cd dist && sha256sum mervid*)
  cp -r dist "$out/first"
  ./package >/dev/null 2>&1
  second=$(cd dist && sha256sum mervid*)
  if [ "$first" = "$second" ]; then echo "  ok    one hash for each of the three"; else
    echo "  FELL  they differ:"
    diff <(echo "$first") <(echo "$second") || true
    fell=1
  fi
  rm -rf "$out/first"
fi
exit $fell
