# Completion of yarngap-cli in bash. The program itself is asked, so that it is always true.
_yarngap_cli() {
  local word=${COMP_WORDS[COMP_CWORD]} command=${COMP_WORDS[1]}
  if [ "$COMP_CWORD" -eq 1 ]; then
    COMPREPLY=($(compgen -W "$(yarngap-cli --help 2>/dev/null | sed -n '/^Subcommands:/,$s/^  \([a-z-]*\) .*/\1/p') --help --version" -- "$word"))
  elif [[ $word == -* ]]; then
    COMPREPLY=($(compgen -W "$(yarngap-cli "$command" --help 2>/dev/null | grep -o '^  *\(-[a-z],\)\?-[-a-z]*' | tr -d ' ' | tr ',' '\n')" -- "$word"))
  else
    COMPREPLY=()
  fi
}
complete -o default -o filenames -F _yarngap_cli yarngap-cli
