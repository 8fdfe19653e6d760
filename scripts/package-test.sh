#!/usr/bin/env bash
# Installs the packages in a clean Debian 12 of its own folder and uses them there: scripts/package-test.sh BUILD. Needs root,
# debootstrap and the mirror of /etc/apt; takes a few minutes and a gigabyte.
set -euo pipefail
cd "$(dirname "$0")/.."
build=$(realpath "$1")
"$PWD/scripts/packages.sh" debootstrap
work=$(mktemp -d)
root=$work/root
cleanup() {
  umount "$root/proc" 2>/dev/null || true
  rm -rf --one-file-system "$work"
}
trap cleanup EXIT
(cd "$build" && rm -f ./*.deb && cpack >"$work/cpack.log" 2>&1) || { tail -20 "$work/cpack.log"; exit 1; }
mirror=$(cat /etc/apt/sources.list /etc/apt/sources.list.d/* 2>/dev/null | grep -oE 'https?://[^ ]+/debian/?( |$)' | head -1 | tr -d ' ' || true)
debootstrap --variant=minbase bookworm "$root" "${mirror:-http://deb.debian.org/debian}" >"$work/log" 2>&1 || { tail -20 "$work/log"; exit 1; }
cp /etc/apt/apt.conf.d/* "$root/etc/apt/apt.conf.d/" 2>/dev/null || true
cp /etc/resolv.conf "$root/etc/resolv.conf"
mount -t proc proc "$root/proc"
cp "$build"/*.deb "$root/tmp/"
inside() { chroot "$root" env -i PATH=/usr/sbin:/usr/bin:/sbin:/bin HOME=/root DEBIAN_FRONTEND=noninteractive "$@"; }

# The command line by itself brings no Qt.
inside sh -c 'apt-get update -qq && apt-get install -qqy --no-install-recommends /tmp/zither-cli_*.deb' >>"$work/log" 2>&1 || { tail -20 "$work/log"; exit 1; }
inside sh -c '! dpkg -l | grep -qi "libqt6"' || { echo "zither-cli brings Qt"; exit 1; }
inside zither-cli --version

inside sh -c 'apt-get install -qqy --no-install-recommends /tmp/zither_*.deb xvfb xauth libgl1-mesa-dri man-db desktop-file-utils appstream' >>"$work/log" 2>&1 || { tail -20 "$work/log"; exit 1; }
inside zither-cli example /usr/share/zither/rig -o /tmp/out | tail -12
inside zither-cli repair /usr/share/zither/rig/hub.stl -o /tmp/hub.3mf >/dev/null
inside zither-cli report /usr/share/zither/rig/hub.stl /tmp/hub.3mf -o /tmp/hub.pdf
inside sh -c 'head -c 5 /tmp/hub.pdf' | grep -q '%PDF-'
inside desktop-file-validate /usr/share/applications/zither.desktop
inside appstreamcli validate --no-net /usr/share/metainfo/org.zither.Zither.metainfo.xml
inside sh -c 'test -s /usr/share/man/man1/zither-cli.1* && test -s /usr/share/icons/hicolor/scalable/apps/zither.svg'
# The window opens a file and stays until it is told to go; its journal says what it did.
inside sh -c 'LIBGL_ALWAYS_SOFTWARE=1 timeout 30 xvfb-run -a -s "-screen 0 1280x800x24" zither /tmp/hub.3mf; test $? -eq 124' || { echo "the window did not stay"; exit 1; }
inside sh -c 'grep -q "Judging hub" /root/.local/share/zither/zither/journal/zither.log' || { echo "the window did not open the file"; exit 1; }
inside sh -c 'apt-get purge -qqy zither zither-cli' >>"$work/log" 2>&1
inside sh -c '! test -e /usr/bin/zither && ! test -e /usr/share/zither'
echo "installed, used and removed in a clean Debian 12"
