#!/bin/sh
# The web server: brings the database up to date, then answers; on the socket that systemd holds, where it holds one.
set -eu
cd "$(dirname "$0")/.."
.venv/bin/python manage.py prepare
bind="0.0.0.0:8000"
[ -z "${LISTEN_FDS:-}" ] || bind="fd://3"
exec .venv/bin/gunicorn --preload --workers "${WEB_WORKERS:-2}" --threads "${WEB_THREADS:-8}" \
  --bind "$bind" --no-control-socket --worker-tmp-dir /dev/shm --graceful-timeout 30 --keep-alive 75 \
  --max-requests 20000 --max-requests-jitter 2000 --log-level warning web.project.wsgi:application
