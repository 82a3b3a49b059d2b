#!/bin/sh
# The web server: brings the database up to date, then answers; on the socket that systemd holds,
# where it holds one.
set -eu
cd "$(dirname "$0")/.."
# Only where the code is newer than what was prepared last: a server that died is back in a second.
done="${IRONMARGIN_VAR:-var}/prepared"
newer() {
  find web ironmargin requirements.lock -newer "$done" ! -name '*.pyc' -type f -print -quit
}
if [ ! -e "$done" ] || [ -n "$(newer)" ]; then
  .venv/bin/python manage.py prepare
  : > "$done"
fi
bind="0.0.0.0:8000"
# Named once: left to find it by itself, too, the web server would close it under its own feet.
[ -z "${LISTEN_FDS:-}" ] || { bind="fd://3"; unset LISTEN_FDS; }
exec .venv/bin/gunicorn --preload --workers "${WEB_WORKERS:-2}" --threads "${WEB_THREADS:-8}" \
  --bind "$bind" --no-control-socket --worker-tmp-dir /dev/shm \
  --graceful-timeout 30 --keep-alive 75 --max-requests 20000 --max-requests-jitter 2000 \
  --log-level warning web.project.wsgi:application
