#!/bin/sh
# Builds the program for each platform, the same bytes every time from the same commit, with checksums, and the Debian packages.
#   packaging/dist.sh [PLATFORM...]      for example linux/amd64; all without any
set -eu
cd "$(dirname "$0")/.."
VERSION=$(git describe --tags --always --dirty 2>/dev/null || echo 0.0.0)
SOURCE_DATE_EPOCH=$(git log -1 --format=%ct)
export SOURCE_DATE_EPOCH CGO_ENABLED=0
OUT=${DIST:-dist}
rm -rf "$OUT"
mkdir -p "$OUT"
for platform in ${@:-linux/amd64 linux/arm64 darwin/amd64 darwin/arm64 windows/amd64 windows/arm64}; do
	os=${platform%/*} arch=${platform#*/} name=hexachord-$VERSION-$os-$arch
	binary=hexachord
	[ "$os" = windows ] && binary=hexachord.exe
	mkdir -p "$OUT/$name"
	GOOS=$os GOARCH=$arch go build -trimpath -buildvcs=false -ldflags "-s -w -buildid= -X main.version=$VERSION -X main.described=yes" -o "$OUT/$name/$binary" ./cmd/hexachord
	cp README.md CHANGELOG.md docs/licences.md "$OUT/$name/"
	tar --sort=name --mtime="@$SOURCE_DATE_EPOCH" --owner=0 --group=0 --numeric-owner --mode=a+rX,u+w,go-w -C "$OUT" -cf - "$name" | gzip -n >"$OUT/$name.tar.gz"
	[ "$os" = linux ] && sh packaging/deb.sh "$OUT/$name/$binary" "$VERSION" "$arch" "$OUT"
	rm -rf "${OUT:?}/$name"
done
(cd "$OUT" && sha256sum -- * >SHA256SUMS && cat SHA256SUMS)
