# Sourced by install and remove: tells the desktop, where there is one, that entries and file types changed.
refresh() { # SHARE
    for told in "update-desktop-database -q $1/applications" "update-mime-database $1/mime" "gtk-update-icon-cache -q -t $1/icons/hicolor"; do
        # shellcheck disable=SC2086
        command -v "${told%% *}" >/dev/null 2>&1 && $told >/dev/null 2>&1 || true
    done
}
