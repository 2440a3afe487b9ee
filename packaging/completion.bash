# Completion of violet-dial for bash.
_violet_dial() {
    local word=${COMP_WORDS[COMP_CWORD]} before=${COMP_WORDS[COMP_CWORD - 1]}
    case "$before" in
    --workshop | doctor | --salvage) COMPREPLY=($(compgen -f -X '!*.violet' -- "$word") $(compgen -d -- "$word")) ;;
    restore) COMPREPLY=($(compgen -W newest -- "$word") $(compgen -f -- "$word")) ;;
    check | op | trace | sheet | bench | --readings | --circuit | -o | --output | --shots) COMPREPLY=($(compgen -f -- "$word")) ;;
    *)
        if [ "$COMP_CWORD" = 1 ] || [ "${COMP_WORDS[COMP_CWORD - 2]}" = --workshop ]; then
            COMPREPLY=($(compgen -W "check light op trace bench sheet backup restore doctor --workshop --demo --shots --help --version" -- "$word") $(compgen -f -X '!*.violet' -- "$word"))
        else
            COMPREPLY=($(compgen -W "--json --tolerance --tolerance-ends --u-reference --u-reading --readings --iso -k -c --fault --port --seed --circuit --output --salvage --help" -- "$word") $(compgen -f -- "$word"))
        fi
        ;;
    esac
}
complete -o filenames -F _violet_dial violet-dial
