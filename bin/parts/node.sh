# Build-time tools from npm, as package-lock.json pins them.

node_tools() {
  # Not `npm ci`: it wants every platform's optional package in the lock, and not every registry has them all.
  local wanted
  wanted=$(sha256sum <package-lock.json)
  [ "$(cat node_modules/.whole 2>/dev/null)" = "$wanted" ] && return 0
  echo "Installing build tools into node_modules"
  # What was broken off in the middle is begun anew: npm takes a package whose files are half there for whole.
  [ -e node_modules/.whole ] || rm -rf node_modules
  rm -f node_modules/.whole
  npm install --no-save --ignore-scripts --no-audit --no-fund --silent
  echo "$wanted" >node_modules/.whole
}
