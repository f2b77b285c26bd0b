# Shared by ./start and ./test: installing what is needed and running a private PostgreSQL cluster. Sourced, not run.
say() { printf '%s\n' "$*"; }
fail() { printf 'Stopped: %s\n' "$*" >&2; exit 1; }

as_root() { if [ "$(id -u)" = 0 ]; then "$@"; elif command -v sudo >/dev/null; then sudo "$@"; else fail "installing packages needs root or sudo: $*"; fi; }

# Installs the Debian packages that are missing.
need_packages() {
  local missing=()
  for package in "$@"; do
    dpkg-query -W -f='${Status}' "$package" 2>/dev/null | grep -q 'install ok installed' || missing+=("$package")
  done
  [ ${#missing[@]} -eq 0 ] && return
  say "Installing Debian packages: ${missing[*]} ..."
  as_root apt-get update -qq >/dev/null || fail "apt-get update did not work; is a Debian mirror reachable?"
  # A new PostgreSQL package must not start a cluster of its own.
  as_root mkdir -p /etc/postgresql-common
  [ -e /etc/postgresql-common/createcluster.conf ] || printf 'create_main_cluster = false\n' | as_root tee /etc/postgresql-common/createcluster.conf >/dev/null
  as_root env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "${missing[@]}" >/tmp/bostel-apt.log 2>&1 || fail "installing Debian packages failed; see /tmp/bostel-apt.log"
}

need_tools() {
  command -v dotnet >/dev/null || fail "the .NET 10 SDK is needed; 'dotnet' was not found."
  dotnet --list-sdks | grep -q '^10\.' || fail "the .NET 10 SDK is needed; found $(dotnet --version 2>/dev/null)."
  command -v node >/dev/null || fail "Node.js 20 or newer is needed; 'node' was not found."
  [ "$(node -p 'process.versions.node.split(".")[0]')" -ge 20 ] || fail "Node.js 20 or newer is needed; found $(node --version)."
  need_packages postgresql chromium libocct-data-exchange-dev libmeshoptimizer2d g++
}

# npm packages of a folder, only when the lock file changed.
npm_packages() {
  local folder=$1 stamp="$1/node_modules/.bostel-stamp"
  if [ ! -e "$stamp" ] || ! cmp -s "$folder/package-lock.json" "$stamp"; then
    say "Installing npm packages in $(basename "$folder") ..."
    (cd "$folder" && PLAYWRIGHT_SKIP_BROWSER_DOWNLOAD=1 npm ci --no-audit --no-fund --loglevel=error >/tmp/bostel-npm.log 2>&1) || fail "npm could not install the packages of $folder; see /tmp/bostel-npm.log"
    cp "$folder/package-lock.json" "$stamp"
  fi
}

build_web() {
  npm_packages "$root/web"
  local out="$root/src/Bostel.Server/wwwroot"
  if [ ! -e "$out/index.html" ] || [ -n "$(find "$root/web/src" "$root/web/index.html" "$root/web/package-lock.json" -newer "$out/index.html" -print -quit)" ]; then
    say "Building the web app ..."
    (cd "$root/web" && npm run --silent build >/tmp/bostel-web.log 2>&1) || { tail -20 /tmp/bostel-web.log >&2; fail "the web app does not build; see above."; }
    touch "$out/index.html"
  fi
}

build_native() { "$root/native/build.sh" || fail "the CAD translator does not build."; }

# PostgreSQL in its own data directory, on loopback only. Run as 'postgres' when we are root, else as ourselves.
pg_run() { if [ "$(id -u)" = 0 ]; then runuser -u postgres -- "$@"; else "$@"; fi; }
pg_bin() { ls -d /usr/lib/postgresql/*/bin 2>/dev/null | sort -V | tail -1; }

# A password for a role of the cluster, made once and readable by us alone.
secret() { # file
  [ -s "$1" ] || (umask 077 && mkdir -p "$(dirname "$1")" && head -c 24 /dev/urandom | base64 | tr '+/' '-_' >"$1")
  cat "$1"
}

# SQL from standard input, as the cluster's administrator. Passwords go through the environment and standard input, never through arguments.
pg_admin() { # secrets port database
  PGPASSWORD=$(cat "$1/db-admin") "$(pg_bin)/psql" -h 127.0.0.1 -p "$2" -U bostel -d "$3" -v ON_ERROR_STOP=1 -qAt
}

# The application's role owns its database and nothing else: it is no superuser and makes neither roles nor databases.
pg_roles() { # secrets port
  local application; application=$(secret "$1/db-application")
  pg_admin "$1" "$2" postgres <<SQL || fail "the roles of the database could not be set up."
DO \$\$ BEGIN IF NOT EXISTS (SELECT 1 FROM pg_roles WHERE rolname = 'bostel_app') THEN CREATE ROLE bostel_app; END IF; END \$\$;
ALTER ROLE bostel_app WITH LOGIN NOSUPERUSER NOCREATEDB NOCREATEROLE NOREPLICATION PASSWORD '$application';
SELECT 'CREATE DATABASE bostel OWNER bostel_app' WHERE NOT EXISTS (SELECT 1 FROM pg_database WHERE datname = 'bostel') \gexec
ALTER DATABASE bostel OWNER TO bostel_app;
REVOKE ALL ON DATABASE bostel FROM PUBLIC;
SQL
  pg_admin "$1" "$2" bostel <<'SQL' || fail "the database could not be handed to its own role."
DO $$ DECLARE r record; BEGIN
  FOR r IN SELECT nspname FROM pg_namespace WHERE nspname IN ('public', 'hangfire') LOOP EXECUTE format('ALTER SCHEMA %I OWNER TO bostel_app', r.nspname); END LOOP;
  FOR r IN SELECT c.oid::regclass AS name FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace
           WHERE n.nspname IN ('public', 'hangfire') AND c.relkind = 'r' AND pg_get_userbyid(c.relowner) <> 'bostel_app' LOOP
    EXECUTE format('ALTER TABLE %s OWNER TO bostel_app', r.name);
  END LOOP;
  FOR r IN SELECT c.oid::regclass AS name FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace
           WHERE n.nspname IN ('public', 'hangfire') AND c.relkind = 'S' AND pg_get_userbyid(c.relowner) <> 'bostel_app' LOOP
    EXECUTE format('ALTER SEQUENCE %s OWNER TO bostel_app', r.name);
  END LOOP;
END $$;
SQL
}

# Sets pg_started when it started the cluster and pg_new when it made it.
start_postgres() { # folder port secrets
  local folder=$1 port=$2 secrets=$3 bin
  bin=$(pg_bin); [ -n "$bin" ] || fail "PostgreSQL's programs were not found in /usr/lib/postgresql."
  mkdir -p "$folder"
  if [ "$(id -u)" = 0 ]; then
    chown postgres "$folder"
    # The server user must be able to reach the folder.
    runuser -u postgres -- test -x "$folder" || fail "the user postgres cannot enter $folder; choose another place with --data."
  fi
  if [ ! -e "$folder/cluster/PG_VERSION" ]; then
    say "Making a PostgreSQL cluster in $folder ..."
    (umask 077 && secret "$secrets/db-admin" >"$folder/once")
    [ "$(id -u)" = 0 ] && chown postgres "$folder/once"
    pg_run "$bin/initdb" -D "$folder/cluster" -U bostel --auth=scram-sha-256 --pwfile="$folder/once" -E UTF8 --locale=C.UTF-8 >"$folder.log" 2>&1 \
      || { rm -f "$folder/once"; fail "initdb failed; see $folder.log"; }
    rm -f "$folder/once"
    pg_new=1
  fi
  if ! pg_run "$bin/pg_ctl" -D "$folder/cluster" status >/dev/null 2>&1; then
    pg_run "$bin/pg_ctl" -D "$folder/cluster" -w -t 60 -l "$folder/server.log" \
      -o "-p $port -c listen_addresses=127.0.0.1 -c unix_socket_directories='' -c max_wal_size=2GB -c shared_buffers=256MB" start >/dev/null 2>&1 \
      || fail "PostgreSQL did not start on port $port; see $folder/server.log"
    pg_started=1
  fi
  if [ ! -s "$secrets/db-admin" ]; then
    # A cluster of an earlier version let everybody on this machine in: it gets passwords now.
    say "Giving the database passwords ..."
    printf "ALTER ROLE bostel PASSWORD '%s';\n" "$(secret "$secrets/db-admin")" | "$bin/psql" -h 127.0.0.1 -p "$port" -U bostel -d postgres -q || { rm -f "$secrets/db-admin"; fail "the database could not be given passwords."; }
    sed -i -E 's/(^(local|host).*)trust$/\1scram-sha-256/' "$folder/cluster/pg_hba.conf"
    pg_run "$bin/pg_ctl" -D "$folder/cluster" reload >/dev/null
  fi
  pg_roles "$secrets" "$port"
}

# The connection of the application's own role.
pg_connection() { # secrets port
  printf 'Host=127.0.0.1;Port=%s;Database=bostel;Username=bostel_app;Password=%s;Maximum Pool Size=40' "$2" "$(cat "$1/db-application")"
}

stop_postgres() { # folder
  local bin; bin=$(pg_bin)
  pg_run "$bin/pg_ctl" -D "$1/cluster" -m fast stop >/dev/null 2>&1 || true
}

port_free() { ! (exec 3<>"/dev/tcp/127.0.0.1/$1") 2>/dev/null; }

# A port below those the system gives to outgoing connections: one of them can end up connected to itself there and look like a server.
test_port() { local port=$((20000 + RANDOM % 12000)); while ! port_free "$port"; do port=$((port + 1)); done; echo "$port"; }

# Waits until a server of ours answers; when it stops first or is not there after so many seconds, 'why' tells.
await_server() { # pid port seconds
  local end=$((SECONDS + $3)) answer
  while [ $SECONDS -lt $end ]; do
    if ! kill -0 "$1" 2>/dev/null; then local code=0; wait "$1" || code=$?; why="the server stopped while starting (exit code $code)"; return 1; fi
    answer=
    { exec 3<>"/dev/tcp/127.0.0.1/$2" && printf 'GET /api/session HTTP/1.0\r\n\r\n' >&3 && IFS= read -r -t 5 answer <&3; } 2>/dev/null || true
    { exec 3>&-; } 2>/dev/null || true
    case $answer in HTTP/*) return 0 ;; esac
    sleep 0.2
  done
  why="the server does not answer on port $2 after $3 seconds"
  return 1
}
