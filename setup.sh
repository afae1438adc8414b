# Sets up .venv; sourced by run and test. Needs nothing on the machine but a shell (and, for a machine without
# Python 3.11 or the system libraries, root and Debian's package manager).

QT_LIBRARIES="libgl1 libegl1 libegl-mesa0 libgl1-mesa-dri libxkbcommon0 libfontconfig1 libglib2.0-0 libdbus-1-3"
WINDOW_LIBRARIES="libxcb-cursor0 libxcb-icccm4 libxcb-keysyms1 libxkbcommon-x11-0 libxcb-shape0 libxcb-xkb1 libxcb-render-util0 libxcb-image0"
DESK_PROGRAMS="Xvfb openbox" # what tests/desk needs besides; test sets NEEDED_PROGRAMS to it
DESK_PACKAGES="xvfb openbox"
NEEDED_PROGRAMS=""
NEEDED_FILES="libGL.so.1 libEGL.so.1 libxkbcommon.so.0 libfontconfig.so.1 libglib-2.0.so.0 libdbus-1.so.3 libxcb-cursor.so.0 libxcb-icccm.so.4 libxcb-keysyms.so.1 libxkbcommon-x11.so.0 libxcb-shape.so.0 libxcb-xkb.so.1 libxcb-render-util.so.0 libxcb-image.so.0"

python_311() { # the name of a Python 3.11 that can make environments
    for name in python3.11 python3; do
        if command -v "$name" >/dev/null 2>&1 &&
            "$name" -c 'import sys, venv, ensurepip; sys.exit(sys.version_info[:2] != (3, 11))' >/dev/null 2>&1; then
            echo "$name"
            return 0
        fi
    done
    return 1
}

missing_programs() {
    for program in $NEEDED_PROGRAMS; do
        command -v "$program" >/dev/null 2>&1 || echo "$program"
    done
}

missing_packages() {
    missing=""
    python_311 >/dev/null || missing="python3.11 python3.11-venv"
    known=$( (ldconfig -p || /sbin/ldconfig -p) 2>/dev/null)
    for file in $NEEDED_FILES; do
        case "$known" in
        *"$file"*) ;;
        *)
            missing="$missing $QT_LIBRARIES $WINDOW_LIBRARIES"
            break
            ;;
        esac
    done
    [ -z "$(missing_programs)" ] || missing="$missing $DESK_PACKAGES"
    [ -e /etc/ssl/certs/ca-certificates.crt ] || missing="$missing ca-certificates"
    echo "$missing"
}

install_system() {
    packages=$(missing_packages)
    [ -n "$packages" ] || return 0
    command="apt-get install -y --no-install-recommends $(echo $packages)"
    if [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null 2>&1; then
        echo "Installing what the system lacks: $(echo $packages)" >&2
        export DEBIAN_FRONTEND=noninteractive
        apt-get update -q >&2 && $command >&2 && return 0
        echo "The system's packages could not be installed. Run this yourself, then start again: $command" >&2
        return 1
    fi
    echo "The system lacks libraries that Zumbert needs. Run this, then start again: sudo $command" >&2
    return 1
}

# set_up LOCK: an environment with all of a lock file in it; nothing is done where it already stands.
set_up() {
    lock=$1
    stamp=".venv/$lock.done"
    if [ -f "$stamp" ] && [ "$(cat .venv/place.done 2>/dev/null)" = "$PWD" ] && [ -x .venv/bin/python ] && [ -z "$(missing_programs)" ] && cmp -s "$lock" "$stamp" && cmp -s pyproject.toml .venv/pyproject.done; then
        return 0
    fi
    install_system || return 1
    # an environment knows the place where it was made: in a moved checkout it starts what is no longer there
    if [ "$(cat .venv/place.done 2>/dev/null)" != "$PWD" ] || ! .venv/bin/python -c 'import pip' >/dev/null 2>&1; then
        rm -rf .venv
        "$(python_311)" -m venv .venv || return 1
        echo "$PWD" >.venv/place.done
    fi
    echo "Installing Zumbert's packages into .venv …" >&2
    .venv/bin/python -m pip install -q --disable-pip-version-check --require-hashes -r "$lock" >&2 || return 1
    .venv/bin/python -m pip install -q --disable-pip-version-check --no-deps --no-build-isolation -e . >&2 || return 1
    .venv/bin/python -m compileall -q src/zumbert >&2 || true # for machines where Python may write no bytecode
    cp "$lock" "$stamp" && cp pyproject.toml .venv/pyproject.done
}
