# Sourced by ./demo, ./test, bench/run and packaging/install: says or installs what is missing, makes the environment.
# Usage: set_up EXTRA   (EXTRA empty for the application alone, "test" for the checks too)
# It works in the folder it is called in; the environment is .venv there.

set_up() {
    extra=$1
    need "$extra"
    stamp=".venv/.stamp-${extra:-app}"
    if [ -f "$stamp" ] && [ "$stamp" -nt pyproject.toml ] && [ "$stamp" -nt constraints.txt ] && environment_works; then
        return
    fi
    if ! environment_works; then # none yet, half made, moved from elsewhere, or of a Python that is gone
        make_environment .venv
        pwd >.venv/.made-in
    fi
    echo "Setting up in .venv (once; needs the package index)…" >&2
    install_into .venv -e ".${extra:+[$extra]}"
    .venv/bin/python -m compileall -q src >/dev/null 2>&1 || true # the first start need not
    touch "$stamp"
}

say() { echo "violet-dial: $*" >&2; }

environment_works() {
    [ -f .venv/.made-in ] && [ "$(cat .venv/.made-in)" = "$(pwd)" ] && .venv/bin/python -m pip --version >/dev/null 2>&1
}

make_environment() { # FOLDER
    rm -rf "$1"
    "$python" -m venv "$1" >/dev/null 2>&1 || {
        rm -rf "$1"
        say "cannot make a Python environment in $1: is the disk full, or may the folder not be written?"
        exit 1
    }
}

install_into() { # FOLDER WHAT PIP IS TO INSTALL...
    into=$1
    shift
    "$into/bin/python" -m pip install --quiet --disable-pip-version-check -c constraints.txt "$@" || {
        say "pip could not install what pyproject.toml names; is the package index reachable?"
        exit 1
    }
}

# Everything that is missing, at once: Python with what makes environments, libraries, programs.
need() { # EXTRA
    missing=""
    find_python
    libraries
    [ "$1" != test ] || programs
    [ -n "$missing" ] || return 0
    install_packages
    missing=""
    find_python
    [ -z "$missing" ] || {
        say "Python 3.11 or newer is needed, with the package python3-venv"
        exit 1
    }
}

find_python() {
    for python in python3.11 python3.12 python3.13 python3; do
        if command -v "$python" >/dev/null 2>&1 &&
            "$python" -c 'import sys; sys.exit(not (3, 11) <= sys.version_info[:2])' 2>/dev/null; then
            "$python" -c 'import ensurepip, venv' 2>/dev/null || missing="$missing python3-venv"
            return
        fi
    done
    missing="$missing python3 python3-venv"
}

# What Qt loads from the system, with the Debian package that brings it.
libraries() {
    [ "$(uname -s)" = Linux ] || return 0
    known=$(PATH="$PATH:/usr/sbin:/sbin" ldconfig -p 2>/dev/null) # an ordinary user's PATH has no sbin
    while read -r library package; do
        case "$known" in *"$library"*) ;; *) missing="$missing $package" ;; esac
    done <<'LIST'
libGL.so.1 libgl1
libEGL.so.1 libegl1
libfontconfig.so.1 libfontconfig1
libglib-2.0.so.0 libglib2.0-0
libdbus-1.so.3 libdbus-1-3
libxkbcommon.so.0 libxkbcommon0
libxkbcommon-x11.so.0 libxkbcommon-x11-0
libxcb-cursor.so.0 libxcb-cursor0
libxcb-icccm.so.4 libxcb-icccm4
libxcb-keysyms.so.1 libxcb-keysyms1
libxcb-image.so.0 libxcb-image0
libxcb-render-util.so.0 libxcb-render-util0
libxcb-shape.so.0 libxcb-shape0
libwayland-cursor.so.0 libwayland-cursor0
libwayland-egl.so.1 libwayland-egl1
LIST
}

# What the checks compare with, and the screen, window manager, keys and pictures of the walks.
programs() {
    while read -r program package; do
        command -v "$program" >/dev/null 2>&1 || missing="$missing $package"
    done <<'LIST'
ngspice ngspice
Xvfb xvfb
openbox openbox
xdotool xdotool
xwd x11-apps
LIST
}

install_packages() {
    if [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null 2>&1; then
        echo "Installing system packages:$missing" >&2
        apt-get update -qq >/dev/null 2>&1
        # shellcheck disable=SC2086
        DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends $missing >/dev/null 2>&1 && return 0
        say "apt-get could not install:$missing"
        exit 1
    fi
    say "these system packages are missing; install them, as root, with: apt-get install$missing"
    exit 1
}
