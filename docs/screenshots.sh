#!/usr/bin/env bash
# Makes docs/screenshots/ again from the demo data. Charts need nothing but grainstack; pictures of the terminal need
# xvfb, xterm and imagemagick, those of pages chromium and poppler-utils (Debian's packages of those names).
set -euo pipefail
cd "$(dirname "$0")/.."
shots=$PWD/docs/screenshots
folder=$(mktemp -d)
trap 'rm -rf "$folder"' EXIT
PATH=$PWD/.venv/bin:$PATH
grainstack demo "$folder" >/dev/null 2>&1
cd "$folder"

terminal() { # NAME COMMAND...: what a command shows in a terminal window of 1280 by about 800 pixels
  local name=$1
  shift
  printf '#!/bin/bash\nprintf "\\033[1m$ %s\\033[0m\\n\\n"\n%s\ntouch %s/shown\nsleep 20\n' "$*" "$*" "$folder" >"$folder/show"
  chmod +x "$folder/show"
  rm -f "$folder/shown"
  xvfb-run -a -s '-screen 0 1280x800x24' bash -c "
    xterm -fa 'DejaVu Sans Mono' -fs 11 -geometry 140x42+0+0 -bg white -fg '#1f2a33' -e $folder/show &
    until [ -e $folder/shown ]; do sleep 0.2; done; sleep 0.7
    import -window root $shots/$name; kill %1"
}

chart() { # NAME COMMAND...: the picture a command draws
  local name=$1
  shift
  grainstack "$@" --out "$shots/$name" 2>/dev/null
}

if [ "${1:-}" != charts ]; then
  terminal look.png grainstack look passengers.csv --rows 0
  terminal table.png grainstack table passengers.csv --by ticket --banner season --banner route --confidence 99 --confidence 95
  terminal weigh.png grainstack weigh passengers.csv --target targets.csv --out weighed.csv
  terminal bar_terminal.png grainstack bar passengers.csv --by route --split ticket --layout percent
  terminal changes.png 'grainstack changes 2024 2025 | head -38'
  grainstack build plan.toml --quiet
  shown='show=tickets_by_route%20Summer~2;tickets_by_route%20filters~2' # summer, without the ticket desk
  chromium --headless --no-sandbox --disable-gpu --hide-scrollbars --window-size=1280,960 \
    --user-data-dir="$folder/browser" --screenshot="$shots/report.png" "file://$folder/out/report.html#$shown" 2>/dev/null
  grainstack topline passengers.csv --split season --out topline.pdf 2>/dev/null
  grainstack edit plan.toml tickets_by_route --no-browser >address &
  editing=$!
  until grep -q http address; do sleep 0.2; done
  PYTHONPATH="$shots/../.." python - "$(head -1 address)" "$folder" "$shots/edit.png" <<'PAGE'
import sys, time
from pathlib import Path
from tests.report.keyboard import Keyboard

address, folder, target = sys.argv[1:]
with Keyboard(address, Path(folder), "#picture svg") as page:
    page.shot()
    page.value('document.querySelectorAll("#picture [data-role=bar]")[11].dispatchEvent(new MouseEvent("click", {bubbles: true})), 1')
    time.sleep(3)  # the small pictures
    Path(target).write_bytes(page.shot())
PAGE
  kill -INT "$editing"
  pdftoppm -r 76 -f 3 -l 5 -png topline.pdf topline
  montage topline-*.png -tile 3x -geometry 424x600+1+1 -background '#e3e6e8' "$shots/topline.png"
fi
chart bar_percent.png bar passengers.csv --by route --split ticket --layout percent \
  --title 'How passengers bought their ticket, by route' --subtitle 'Share of passengers (%), 2025 sailing survey'
chart bar_mean.png bar passengers.csv --by route --measure wait --letters --error-bars confidence
chart bar_items.png bar passengers.csv --items opinion=cleanliness,staff,punctuality --layout diverging \
  --stat share --stat mean --net 'answer: Satisfied = Good, Very good' --order 'largest-first: Satisfied' \
  --title 'What passengers think' --subtitle 'Share of passengers (%), and mean from 1 to 5'
chart bar_change.png bar passengers_2024.csv passengers.csv --by route --split file --measure wait \
  --relative-to previous --error-bars confidence
chart lines.png dot crossings.csv --by month --split year --measure revenue --stat sum --show-in thousands --joined \
  --span 'Apr, Jun: Pier repairs'
chart dot.png dot passengers.csv --by route --measure wait --stat mean --stat median --stat p90
chart box.png distribution passengers.csv --measure wait --by route
chart histogram.png distribution passengers.csv --measure wait --by route --form histogram
chart pie.png pie passengers.csv --by ticket --ring
chart treemap.png treemap costs.csv --by department --by item --measure amount --color-by change
chart palettes.png palettes
