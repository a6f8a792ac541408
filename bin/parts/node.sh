# Build-time tools from npm, as package-lock.json pins them.

node_tools() {
  # Not `npm ci`: it wants every platform's optional package in the lock, and not every registry has them all.
  [ -x node_modules/.bin/tailwindcss ] && [ -x node_modules/.bin/esbuild ] && [ -d node_modules/axe-core ] && return 0
  echo "Installing build tools into node_modules"
  npm install --no-save --ignore-scripts --no-audit --no-fund --silent
}
