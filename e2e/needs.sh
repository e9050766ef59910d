#!/bin/sh
# Installs the programs the tests compare against, when they are missing.
set -eu
missing=
need() { command -v "$1" >/dev/null 2>&1 || missing="$missing $2"; }
need chromium chromium
need sox sox
need aubioonset aubio-tools
need lame lame
need unzip unzip
need fluidsynth fluidsynth
[ -e /usr/share/sounds/sf2/TimGM6mb.sf2 ] || missing="$missing timgm6mb-soundfont"
[ -z "$missing" ] && exit 0
if ! command -v apt-get >/dev/null 2>&1; then
	echo "The tests need these programs; install them first:$missing" >&2
	exit 1
fi
as_root=
[ "$(id -u)" = 0 ] || as_root=sudo
echo "Installing what the tests need:$missing"
$as_root apt-get -o DPkg::Lock::Timeout=600 update -q
$as_root apt-get -o DPkg::Lock::Timeout=600 install -q -y --no-install-recommends $missing
