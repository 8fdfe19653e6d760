#!/usr/bin/env bash
# Installs what Zither needs from Debian's packages, and those named besides, once: scripts/packages.sh [package...]. Says
# what it installs. Needs root or sudo only when something is missing.
set -euo pipefail

packages=(
  cmake ninja-build g++ ccache
  qt6-base-dev libqt6opengl6-dev libgl-dev libegl-dev libgl1-mesa-dri
  libeigen3-dev libtbb-dev libembree-dev libboost-dev libgmp-dev libfmt-dev nlohmann-json3-dev libcli11-dev libfast-float-dev libexpected-dev
  libzip-dev libpugixml-dev libpng-dev libsqlite3-dev libzstd-dev libxxhash-dev libssl-dev libpango1.0-dev libspdlog-dev pkg-config
  libgtest-dev libbenchmark-dev
  fonts-inter fonts-dejavu-core xvfb xauth python3 python3-jsonschema poppler-utils
  "$@"
)
missing=()
for p in "${packages[@]}"; do
  dpkg-query -W -f='${Status}' "$p" 2>/dev/null | grep -q "install ok installed" || missing+=("$p")
done
[ ${#missing[@]} -eq 0 ] && exit 0

echo "Zither needs these Debian packages and installs them now: ${missing[*]}" >&2
as_root=()
if [ "$(id -u)" -ne 0 ]; then
  if ! command -v sudo >/dev/null; then
    echo "Neither root nor sudo: install them yourself with: apt-get install ${missing[*]}" >&2
    exit 1
  fi
  as_root=(sudo)
fi
"${as_root[@]}" apt-get update -qq
"${as_root[@]}" env DEBIAN_FRONTEND=noninteractive apt-get install -y --no-install-recommends "${missing[@]}" >&2
