#!/usr/bin/env bash
# Builds a Debian package in dist/, for the architecture and the Python of this machine (Debian 12's own). Run by `make deb`.
#
# The program comes with the Python packages that it was tested with, in /usr/lib/woven-locus: Debian 12 has no Numba and no
# SciPy that are new enough for the Python code, so that Debian's own packages are no choice. See docs/decisions/0027.
set -euo pipefail
cd "$(dirname "$0")/.."
PYTHON="${PYTHON:-python3}"
stage="build/deb"
root="$stage/root"
home="usr/lib/woven-locus"

command -v dpkg-deb >/dev/null || { echo "dpkg-deb is needed: this is no Debian" >&2; exit 1; }
command -v fakeroot >/dev/null || [[ $(id -u) -eq 0 ]] || { echo "Have an administrator run: apt-get install fakeroot" >&2; exit 1; }
minor="$("$PYTHON" -c 'import sys; print(sys.version_info.minor)')"
version="$(sed -n 's/^__version__ = "\(.*\)"/\1/p' src/woven_locus/version.py)"
arch="$(dpkg --print-architecture)"

rm -rf "$stage"
mkdir -p "$root/$home" "$root/usr/bin" "$root/usr/share/doc/woven-locus" "$root/usr/share/lintian/overrides" "$root/DEBIAN"
"$PYTHON" -m venv "$stage/tools"
echo "Installing the program and its Python packages"
"$stage/tools/bin/python" -m pip install -q --disable-pip-version-check -c constraints.txt --no-compile --target "$root/$home" '.[desktop]'

echo "Compiling its kernels for this kind of processor"
PYTHONPATH="$root/$home" "$PYTHON" -s -P -m woven_locus.kernel_cache --into "$root/$home/woven_locus/compiled_kernels"

# What the program never loads, and what belongs to somebody's tests.
rm -rf "$root/$home/bin" "$root/$home"/PyQt6/Qt6/qml "$root/$home"/PyQt6/lupdate "$root/$home"/scipy-*.dist-info/LICENSES_bundled
find "$root/$home" -type d \( -name tests -o -name testing -o -name __pycache__ \) \
  -not -path '*/numpy/testing' -not -path '*/numba/testing' -not -path '*/numba/tests' -prune -exec rm -rf {} +
mkdir -p "$root/usr/share/woven-locus"
mv "$root/$home/share/woven-locus/"* "$root/usr/share/woven-locus/"
rm -rf "$root/$home/share"

cat >"$root/usr/bin/woven-locus" <<'SH'
#!/bin/sh
PYTHONPATH=/usr/lib/woven-locus exec /usr/bin/python3 -s -P -m woven_locus "$@"
SH
echo "Integrating it into the desktop"
PYTHONPATH="$root/$home" QT_QPA_PLATFORM=offscreen "$PYTHON" -s -m woven_locus integrate --prefix "$root/usr/share" --command /usr/bin/woven-locus >/dev/null
gzip -9nf "$root"/usr/share/man/man1/*.1
# The package manager keeps these itself.
find "$root/usr/share/mime" -mindepth 1 -maxdepth 1 -not -name packages -exec rm -rf {} +
rm -f "$root/usr/share/applications/mimeinfo.cache" "$root/usr/share/icons/hicolor/icon-theme.cache"

cp LICENSE "$root/usr/share/doc/woven-locus/copyright"
cat >>"$root/usr/share/doc/woven-locus/copyright" <<'TXT'

The Python packages in /usr/lib/woven-locus are under licences of their own, which lie beside each of them in its .dist-info
folder; PyQt6 is under the GNU General Public License version 3 (/usr/share/common-licenses/GPL-3), so that this package as a
whole is passed on under its terms.
TXT
gzip -9nc CHANGELOG.md >"$root/usr/share/doc/woven-locus/changelog.gz"
{
  echo "woven-locus ($version-1) bookworm; urgency=medium"
  echo
  echo "  * Version $version; see changelog.gz."
  echo
  echo " -- The Woven Locus developers <developers@woven-locus.invalid>  $(date -R -d "@${SOURCE_DATE_EPOCH:-$(git log -1 --format=%ct 2>/dev/null || date +%s)}")"
} | gzip -9nc >"$root/usr/share/doc/woven-locus/changelog.Debian.gz"
cat >"$root/usr/share/lintian/overrides/woven-locus" <<'TXT'
# The Python packages come as their makers built them: with libraries and search paths of their own.
woven-locus: embedded-library
woven-locus: custom-library-search-path
woven-locus: unstripped-binary-or-object
woven-locus: unstripped-static-library
woven-locus: statically-linked-binary
woven-locus: arch-dependent-file-in-usr-share
woven-locus: package-installs-python-pycache-dir
woven-locus: shared-library-lacks-prerequisites
woven-locus: library-not-linked-against-libc
woven-locus: executable-stack-in-shared-library
woven-locus: python-traceback-in-manpage
TXT

depends="python3 (>= 3.$minor), python3 (<< 3.$((minor + 1))), libc6 (>= 2.34), libstdc++6"
for package in $(PYTHONPATH=src "$PYTHON" -c 'from woven_locus.libraries import PACKAGES; print(*sorted(set(PACKAGES.values())))'); do
  depends="$depends, $package"
done
cat >"$root/DEBIAN/control" <<TXT
Package: woven-locus
Version: $version-1
Section: devel
Priority: optional
Architecture: $arch
Installed-Size: $(du -sk "$root/usr" | cut -f1)
Depends: $depends
Maintainer: The Woven Locus developers <developers@woven-locus.invalid>
Description: workbench for developers of city-builder and tower-defence games
 It snaps building footprints to grid cells, judges placement against terrain and
 occupancy, keeps a register of what stands, and routes agents over roads, with
 the working shown. A plan is a JSON file that a game and a build server can read.
TXT
cat >"$root/DEBIAN/postinst" <<'SH'
#!/bin/sh
set -e
if [ "$1" = configure ]; then
  /usr/bin/python3 -m compileall -q /usr/lib/woven-locus >/dev/null 2>&1 || true
fi
SH
cat >"$root/DEBIAN/prerm" <<'SH'
#!/bin/sh
set -e
find /usr/lib/woven-locus -name __pycache__ -prune -exec rm -rf {} +
SH
find "$root" -type d -exec chmod 755 {} +
find "$root" -type f -exec chmod 644 {} +
chmod 755 "$root/usr/bin/woven-locus" "$root"/DEBIAN/p*
(cd "$root" && find usr -type f -exec md5sum {} +) >"$root/DEBIAN/md5sums"

mkdir -p dist
out="dist/woven-locus_$version-1_$arch.deb"
echo "Packing $out"
run=(dpkg-deb --root-owner-group -Zxz -z1 --build "$root" "$out")
"${run[@]}" >/dev/null
echo "$out"
