# Sourced by run and test: makes the virtual environment and the system libraries ready, quickly where they are.

# Debian packages the Qt window needs; fonts-inter gives tabular figures and is optional.
libraries="libegl1 libgl1 libxkbcommon0 libdbus-1-3 libfontconfig1 libglib2.0-0 libxcb-cursor0 libxcb-icccm4 libxcb-keysyms1 libxkbcommon-x11-0 libxcb-image0 libxcb-render-util0 libxcb-xkb1 fonts-inter"

install_libraries() {
    command -v dpkg-query >/dev/null || return 0
    missing=""
    for package in $libraries; do
        dpkg-query -W -f='${Status}' "$package" 2>/dev/null | grep -q 'ok installed' || missing="$missing $package"
    done
    [ -n "$missing" ] || return 0
    if [ "$(id -u)" = 0 ]; then
        echo "Installing$missing ..." >&2
        { apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends $missing; } >&2 \
            || echo "Some system libraries could not be installed; the window may not open." >&2
    else
        echo "The window needs system libraries. Install them once with:" >&2
        echo "    sudo apt-get install$missing" >&2
    fi
}

install_packages() {
    "$venv/bin/python" -m pip install --quiet --disable-pip-version-check --no-compile "$@" >&2
}

# prepare ROOT REQUIREMENTS: sets $venv; a stamp of the requirements makes the next start quick. What is to be run waits
# for compiled.
prepare() {
    local root=$1 requirements="$1/$2" stamp wanted python
    compiling=""
    venv="$root/.venv"
    stamp="$venv/.ready-$2"
    wanted=$(cat "$root"/requirements*.txt "$root/pyproject.toml" "$root/scripts/environment.sh" | sha256sum | cut -d' ' -f1)
    # The path is part of the stamp, since a moved environment does not work.
    wanted="$wanted $root"
    if [ "$(cat "$stamp" 2>/dev/null)" = "$wanted" ] && [ -x "$venv/bin/python" ]; then
        return 0
    fi
    install_libraries
    python=$(command -v python3.11 || command -v python3)
    if ! [ -x "$venv/bin/python" ] || ! "$venv/bin/python" -c '' 2>/dev/null; then
        echo "Making the virtual environment $venv ..." >&2
        "$python" -m venv --clear "$venv"
    fi
    echo "Installing the packages of $2 ..." >&2
    # What compiles the solvers comes first, so that they are compiled while the rest is installed and looked at.
    install_packages $(grep -E '^(llvmlite|numba|numpy|platformdirs)==' "$root/requirements.txt")
    PYTHONPATH="$root/src" "$venv/bin/python" -m cryonome.kernels &
    compiling=$!
    install_packages --requirement "$requirements"
    install_packages --no-deps --no-build-isolation --editable "$root"
    # Byte code once, so that the first start is as quick as the second, whatever the environment says of writing it.
    "$venv/bin/python" -m compileall -q -j 0 -x '/(tests?|testing|pip)/' "$root/src" "$venv/lib" >/dev/null 2>&1 || true
    printf '%s' "$wanted" > "$stamp"
}

# Waits for the solvers that prepare began to compile; where that failed, it tells why.
compiled() {
    [ -z "$compiling" ] || wait "$compiling" || "$venv/bin/python" -m cryonome.kernels
}
