#!/usr/bin/env bash
# Run a command, and again whenever it was killed; told to stop, it tells the command and waits for it.
set -uo pipefail
stopping=""
child=""
stop() {
  stopping=yes
  if [ -n "$child" ]; then kill -TERM "$child" 2>/dev/null; fi
}
trap stop INT TERM HUP
while :; do
  "$@" &
  child=$!
  status=0
  # Without what the shell itself has to say of one that was killed.
  { wait "$child" || status=$?; } 2>/dev/null
  # A signal to this script ends the waiting before the command has ended.
  while kill -0 "$child" 2>/dev/null; do
    { wait "$child" || status=$?; } 2>/dev/null
  done
  # 137: killed in a way that it could do nothing about.
  if [ -n "$stopping" ] || [ "$status" -ne 137 ]; then exit "$status"; fi
  echo "  the keeper of it all was killed; started again"
done
