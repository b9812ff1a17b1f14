#!/bin/sh
# Makes the screenshots of docs/screenshots from the demo data: each command in a terminal window of about 1280x800 under a
# virtual display. Needs Xvfb, xterm, ImageMagick and
# Chromium (Debian: xvfb xterm imagemagick fonts-dejavu-core chromium).
set -eu
cd "$(dirname "$0")"
program=$(cd ../.. && pwd)/tovrel
work=$(mktemp -d)
trap 'kill "$server" 2>/dev/null; rm -rf "$work"' EXIT
"$program" demo "$work/demo" --quiet >/dev/null
Xvfb :97 -screen 0 1280x800x24 >/dev/null 2>&1 &
server=$!
sleep 1

size=9 geometry=158x52
shoot() { # NAME COMMAND…
	name=$1
	shift
	cat >"$work/run.sh" <<SCRIPT
cd "$work/demo"
export PATH="$(dirname "$program"):\$PATH" LANG=C.UTF-8 TERM=xterm-256color
printf '\$ %s\n' "$*"
$* 2>&1 | cat >/dev/null
export COLUMNS=\$(tput cols) # a terminal of its own, so that the top stays where the output is long
script -qec "$*" /dev/null </dev/null | head -n \$((\$(tput lines) - 2))
touch "$work/ready"
sleep 30
SCRIPT
	rm -f "$work/ready"
	DISPLAY=:97 LANG=C.UTF-8 xterm -u8 -fa 'DejaVu Sans Mono' -fs "$size" -geometry "$geometry+0+0" -bg '#fbfbf8' -fg '#222222' \
		-e bash "$work/run.sh" &
	window=$!
	while [ ! -f "$work/ready" ]; do sleep 0.2; done
	sleep 1
	DISPLAY=:97 import -window root "$name.png"
	kill "$window" 2>/dev/null || true
	wait "$window" 2>/dev/null || true
}

shoot scoreboard tovrel show scribe@1
shoot side-by-side tovrel show scribe@1 milk-basics/fat-by-month
shoot why tovrel why scribe@1 milk-basics/loads-per-farm
shoot chart tovrel show scribe@2 desk/draw-districts
DISPLAY=:97 LANG=C.UTF-8 xterm -u8 -fa 'DejaVu Sans Mono' -fs 10 -geometry "140x46+0+0" -bg '#fbfbf8' -fg '#222222' \
	-e sh -c "cd '$work/demo' && COLORTERM=truecolor TERM=xterm-256color '$program' review 2" & # it fills the screen, and waits for keys
window=$!
sleep 5
DISPLAY=:97 import -window root review.png
kill "$window" 2>/dev/null || true
wait "$window" 2>/dev/null || true
(cd "$work/demo" && "$program" report scribe@1 scribe@2 -o page.html --quiet >/dev/null 2>&1)
chromium --headless=new --no-sandbox --hide-scrollbars --window-size=1280,800 --screenshot="$PWD/page.png" "file://$work/demo/page.html" >/dev/null 2>&1
shoot strength tovrel set strength toolshed/last-thirty-days
shoot lucky tovrel show 4 toolshed/fees-of-members
size=8 geometry=178x58
shoot compare tovrel compare scribe@2 scribe@3
size=9 geometry=158x52
shoot gate tovrel gate scribe@2 --against scribe@1
shoot rank tovrel compare scribe@1 scribe@2 scribe@3
shoot try tovrel try --briefing briefings/next.yaml -t pocket@3 --each
shoot history tovrel history
(cd "$work/demo" && "$program" history -t scribe --chart trend.png --quiet >/dev/null 2>&1)
cp "$work/demo/trend.png" trend.png
cp "$work/demo/data/dairy/codes.csv" "$work/demo/expected.csv"
sed 's/North Vale/Northvale/; /Old Lock/d' "$work/demo/data/dairy/codes.csv" >"$work/demo/answer.csv"
shoot match tovrel match expected.csv answer.csv
size=7 geometry=204x66
shoot profile tovrel data profile toolshed
size=9 geometry=158x52
shoot inspect tovrel data inspect toolshed
shoot facts tovrel data twin dairy --facts
