# Sourced by ./demo, ./test and bench/run: makes the environment and installs what is missing.
# Usage: set_up EXTRA   (EXTRA empty for the application alone, "test" for the checks too)

set_up() {
    extra=$1
    find_python
    libraries
    if [ "$extra" = test ]; then
        programs
    fi
    stamp=".venv/.stamp-${extra:-app}"
    if [ -x .venv/bin/python ] && [ -f "$stamp" ] && [ "$stamp" -nt pyproject.toml ] && [ "$stamp" -nt constraints.txt ]; then
        return
    fi
    if ! .venv/bin/python -m pip --version >/dev/null 2>&1; then # none yet, half made, or moved from elsewhere
        rm -rf .venv
        "$python" -m venv .venv || {
            rm -rf .venv
            say "cannot make a virtual environment: install the package python3-venv"
            exit 1
        }
    fi
    echo "Setting up in .venv (once; needs the package index)…" >&2
    .venv/bin/python -m pip install --quiet --disable-pip-version-check -c constraints.txt -e ".${extra:+[$extra]}" || {
        say "pip could not install what pyproject.toml names; is the package index reachable?"
        exit 1
    }
    touch "$stamp"
}

say() { echo "violet-dial: $*" >&2; }

find_python() {
    for python in python3.11 python3.12 python3.13 python3; do
        if command -v "$python" >/dev/null 2>&1 &&
            "$python" -c 'import sys; sys.exit(not (3, 11) <= sys.version_info[:2])' 2>/dev/null; then
            return
        fi
    done
    if [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null 2>&1 && [ -z "${tried_python:-}" ]; then
        tried_python=yes
        echo "Installing Python" >&2
        apt-get update -qq >/dev/null 2>&1
        DEBIAN_FRONTEND=noninteractive apt-get install -y -qq python3 python3-venv >/dev/null 2>&1
        find_python
        return
    fi
    say "Python 3.11 or newer is needed: install the packages python3 and python3-venv"
    exit 1
}

# What Qt loads from the system, with the Debian package that brings it.
libraries() {
    [ "$(uname -s)" = Linux ] || return 0
    missing=""
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
LIST
    [ -z "$missing" ] && return 0
    install_packages
}

# What the checks compare with, and the screen, window manager, keys and pictures of the walks.
programs() {
    missing=""
    while read -r program package; do
        command -v "$program" >/dev/null 2>&1 || missing="$missing $package"
    done <<'LIST'
ngspice ngspice
Xvfb xvfb
openbox openbox
xdotool xdotool
xwd x11-apps
LIST
    [ -z "$missing" ] && return 0
    install_packages
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
    say "these system packages are missing; install them with: apt-get install$missing"
    exit 1
}
