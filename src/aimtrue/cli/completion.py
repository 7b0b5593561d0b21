"""aimtrue completion: what a shell offers when Tab is pressed, made of the commands as they are."""

from __future__ import annotations

import argparse
from importlib import import_module

_BASH = """\
# Completion of aimtrue for bash; load it with: eval "$(aimtrue completion bash)"
_aimtrue() {
  local current="${COMP_WORDS[COMP_CWORD]}" words=""
  if [ "$COMP_CWORD" -eq 1 ]; then
    words="@COMMANDS@"
  else
    case "${COMP_WORDS[1]}" in
@CASES@
    esac
  fi
  if [[ "$current" == -* || "$COMP_CWORD" -eq 1 ]]; then
    COMPREPLY=($(compgen -W "$words" -- "$current"))
  else
    COMPREPLY=($(compgen -f -- "$current"))
  fi
}
complete -o filenames -F _aimtrue aimtrue ./aimtrue
"""

_ZSH = """\
#compdef aimtrue
# Completion of aimtrue for zsh; put it into a folder of $fpath as _aimtrue.
_aimtrue() {
  local -a commands
  commands=(
@COMMANDS@
  )
  if (( CURRENT == 2 )); then
    _describe 'command' commands
    return
  fi
  case "$words[2]" in
@CASES@
  esac
  _files
}
compdef _aimtrue aimtrue ./aimtrue
"""


def completion(asked: argparse.Namespace) -> int:
    """Write the completion of a shell to standard output."""
    commands = import_module("aimtrue.cli.__main__").commands_of_all()
    print((_for_bash if asked.shell == "bash" else _for_zsh)(commands), end="")
    return 0


def _options(parser: argparse.ArgumentParser) -> list[argparse.Action]:
    return [action for action in parser._actions if action.option_strings]


def _for_bash(commands: dict[str, tuple[str, argparse.ArgumentParser]]) -> str:
    cases = "\n".join(
        f'      {name}) words="{" ".join(action.option_strings[-1] for action in _options(parser))}" ;;'
        for name, (_, parser) in commands.items()
    )
    return _BASH.replace("@COMMANDS@", " ".join(commands)).replace("@CASES@", cases)


def _for_zsh(commands: dict[str, tuple[str, argparse.ArgumentParser]]) -> str:
    described = "\n".join(f"    '{name}:{_plain(says)}'" for name, (says, _) in commands.items())
    cases = "\n".join(
        f"    {name}) _arguments {' '.join(map(_zsh_option, _options(parser)))} '*:file:_files'; return ;;"
        for name, (_, parser) in commands.items()
    )
    return _ZSH.replace("@COMMANDS@", described).replace("@CASES@", cases)


def _zsh_option(action: argparse.Action) -> str:
    flag = action.option_strings[-1]
    takes = "" if action.nargs == 0 else f":{_plain(str(action.metavar or action.dest))}:"
    if action.choices:
        takes += f"({' '.join(map(str, action.choices))})"
    return f"'{flag}[{_plain(action.help or '')}]{takes}'"


def _plain(text: str) -> str:
    """Leave out what a shell takes for its own within quotes."""
    return "".join(character for character in text if character not in "'\"[]:`$\\\n")
