#!/bin/sh
# Makes a Debian package of a built program.
#   packaging/deb.sh BINARY VERSION ARCH FOLDER
set -eu
here=$(cd "$(dirname "$0")/.." && pwd)
binary=$1 arch=$3 out=$4
version=$(echo "$2" | sed 's/^v//; s/[^A-Za-z0-9.+~]/./g')
case $version in [0-9]*) ;; *) version=0~$version ;; esac # a version of Debian begins with a digit
root=$(mktemp -d)
trap 'rm -rf "$root"' EXIT
install -D -m 755 "$binary" "$root/usr/bin/hexachord"
install -D -m 644 "$here/docs/licences.md" "$root/usr/share/doc/hexachord/copyright"
gzip -9nc "$here/CHANGELOG.md" >"$root/usr/share/doc/hexachord/changelog.gz"
chmod 644 "$root/usr/share/doc/hexachord/changelog.gz"
install -D -m 644 "$here/packaging/hexachord.desktop" "$root/usr/share/applications/hexachord.desktop"
install -D -m 644 "$here/ui/public/mark.svg" "$root/usr/share/icons/hicolor/scalable/apps/hexachord.svg"
mkdir "$root/DEBIAN"
cat >"$root/DEBIAN/control" <<END
Package: hexachord
Version: $version
Architecture: $arch
Maintainer: The Hexachord team <hexachord@localhost>
Section: sound
Priority: optional
Installed-Size: $(du -sk "$root/usr" | cut -f1)
Description: bench for programming beats, in the browser
 Maps the pieces of a sampler kit to named, coloured lanes, programs beats in
 steps and in a piano roll, and converts recorded breaks into hits that play
 the kit. It serves itself to a browser on this machine.
END
if [ -n "${SOURCE_DATE_EPOCH:-}" ]; then find "$root" -exec touch -h -d "@$SOURCE_DATE_EPOCH" {} +; fi
dpkg-deb --root-owner-group -Zgzip --build "$root" "$out/hexachord_${version}_$arch.deb" >/dev/null
