# What ./run, ./test and ./bench share: finding the tools and building the client only when its sources are newer.
export DOTNET_CLI_TELEMETRY_OPTOUT=1 DOTNET_NOLOGO=1
command -v dotnet >/dev/null || { echo "The .NET SDK 10 is needed: dotnet is not on the PATH." >&2; exit 1; }
command -v npm >/dev/null || { echo "Node.js 20 or newer with npm is needed." >&2; exit 1; }

build_client() {
  if [ ! -d client/node_modules ] || [ client/package-lock.json -nt client/node_modules/.stamp ]; then
    (cd client && npm ci --silent --no-audit --no-fund && touch node_modules/.stamp)
  fi
  if [ ! -f client/dist/index.html ] || [ -n "$(find client/src client/public client/index.html client/openapi.json client/kinds.json client/vite.config.ts client/package-lock.json -newer client/dist/index.html -print -quit)" ]; then
    (cd client && npm run --silent types >/dev/null && npm run --silent build -- --logLevel warn && touch dist/index.html)
  fi
}

# Debian's protocol analyser, by which captures are decoded in a test.
have_analyser() {
  if ! command -v tshark >/dev/null; then
    echo "Installing tshark"
    sudo=""; [ "$(id -u)" = 0 ] || sudo=sudo
    $sudo apt-get update -qq && $sudo env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends tshark >/dev/null
  fi
}

# Debian's browser and driver, for the interface tests and the pictures.
have_browser() {
  if ! command -v chromedriver >/dev/null || ! command -v chromium >/dev/null; then
    echo "Installing chromium and chromium-driver"
    sudo=""; [ "$(id -u)" = 0 ] || sudo=sudo
    $sudo apt-get update -qq && $sudo env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq chromium chromium-driver >/dev/null
  fi
}
