#!/bin/sh
# Looks for known weaknesses of what the program is made of. Fails when there are some; where their lists cannot be reached, says so.
set -u
cd "$(dirname "$0")/.."
bad=0
CGO_ENABLED=0 go run golang.org/x/vuln/cmd/govulncheck@v1.9.0 ./... >/tmp/govulncheck.$$ 2>&1
grep -q '^Vulnerability #' /tmp/govulncheck.$$ && { cat /tmp/govulncheck.$$; bad=1; }
if grep -q 'No vulnerabilities found\|^Vulnerability #' /tmp/govulncheck.$$; then echo "audit: the Go modules were looked at"; else echo "audit: the list of Go weaknesses could not be reached; nothing was looked at"; fi
rm -f /tmp/govulncheck.$$
report=$(cd ui && npm audit --omit=dev --json 2>/dev/null)
case $report in
*'"auditReportVersion"'*)
	echo "audit: the front end's packages were looked at"
	(cd ui && npm audit --omit=dev >/dev/null 2>&1) || { echo "$report"; bad=1; } ;;
*) echo "audit: the list of npm weaknesses could not be reached; nothing was looked at" ;;
esac
exit $bad
