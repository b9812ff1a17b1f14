#!/bin/sh
# A complete translator, as small as can be: it answers every question with the number of rows of the first table it is told
# of. Start from it: read the request, ask your own service, print one JSON object.
request=$(cat)
table=$(printf '%s' "$request" | sed 's/.*"tables":\[{"name":"\([^"]*\)".*/\1/')
id=$(printf '%s' "$request" | sed 's/.*"id":"\([^"]*\)".*/\1/')
printf '{"id": "%s", "query": "SELECT count(*) AS n FROM \\"%s\\"", "explanation": "counts the rows of the first table"}\n' "$id" "$table"
