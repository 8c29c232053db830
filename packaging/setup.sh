#!/bin/sh
# Makes the virtual environment with the pinned packages, and installs what the system lacks.
set -e
VENV="$1"

# Debian builds its Python with all optimisations, which others in the path may lack; it is half as fast again
headers='import sysconfig, os, sys; sys.exit(not os.path.exists(os.path.join(sysconfig.get_paths()["include"], "Python.h")))'
new() { "$1" -c 'import sys; sys.exit(sys.version_info < (3, 11))' 2>/dev/null; }
ready() { new "$1" && "$1" -c 'import venv, ensurepip' 2>/dev/null && "$1" -c "$headers" 2>/dev/null; }
for candidate in /usr/bin/python3 python3; do
  [ -n "$PYTHON" ] || ! ready "$candidate" || PYTHON="$candidate"
done
PYTHON="${PYTHON:-python3}"

# what Qt, the kernel and the window tests need, by the file that shows it is there
missing=""
have() { command -v "$1" >/dev/null 2>&1; }
library() { ls /usr/lib/*/"$1"* /lib/*/"$1"* >/dev/null 2>&1; }
have gcc || missing="$missing gcc libc6-dev"
have Xvfb || missing="$missing xvfb"
"$PYTHON" -c "$headers" 2>/dev/null || missing="$missing python3-dev"
"$PYTHON" -c 'import venv, ensurepip' 2>/dev/null || missing="$missing python3-venv"
library libEGL.so.1 || missing="$missing libegl1"
library libGL.so.1 || missing="$missing libgl1"
library libxkbcommon.so.0 || missing="$missing libxkbcommon0"
library libxkbcommon-x11.so.0 || missing="$missing libxkbcommon-x11-0"
library libdbus-1.so.3 || missing="$missing libdbus-1-3"
library libfontconfig.so.1 || missing="$missing libfontconfig1"
library libglib-2.0.so.0 || missing="$missing libglib2.0-0"
for name in cursor icccm4 image0 keysyms1 render-util0 shape0 randr0 xkb1; do
  case $name in
    icccm4) file=libxcb-icccm.so.4 ;; image0) file=libxcb-image.so.0 ;; keysyms1) file=libxcb-keysyms.so.1 ;;
    render-util0) file=libxcb-render-util.so.0 ;; *) file=libxcb-${name%[0-9]}.so.${name##*[a-z]} ;;
  esac
  library "$file" || missing="$missing libxcb-$name"
done
if [ -n "$missing" ]; then
  if [ "$(id -u)" = 0 ] && have apt-get; then
    echo "Installing$missing"
    apt-get update -qq
    DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends $missing >/dev/null
  else
    echo "Please install these packages, then call make again: sudo apt-get install$missing" >&2
    exit 1
  fi
fi

[ -x "$VENV/bin/python" ] || "$PYTHON" -m venv "$VENV"
"$VENV/bin/pip" install -q --disable-pip-version-check -e '.[dev]' 2>&1 | grep -v '^WARNING: Location' || true
"$VENV/bin/python" -c 'import mevrik.engine.abi as a; a.library()'
"$VENV/bin/python" -m compileall -q src
