# Writes the man pages and the shells' scripts: make_manual.sh YLAT FOLDER
set -eu
ylat=$1
folder=$2
mkdir -p "$folder"
for command in $("$ylat" help --as bash | sed -n "s/.*compgen -W '\\([a-z ]*\\)' -- .*/\\1/p" | head -1); do
  [ "$command" = help ] || "$ylat" help "$command" --as man > "$folder/ylat-$command.1"
done
"$ylat" help --as bash > "$folder/ylat.bash"
"$ylat" help --as zsh > "$folder/_ylat"
"$ylat" help --as man > "$folder/ylat.1"
