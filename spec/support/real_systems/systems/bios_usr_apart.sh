# BIOS, a GPT with a partition for GRUB's core, /usr and /boot on their own, two swaps.
table <<TABLE
label: gpt
size=1M, type=21686148-6449-6E6F-744E-656564454649
size=300M, type=L
size=1200M, type=L
size=1900M, type=L
size=200M, type=S
TABLE
mkfs.ext4 -q "$(part 2)"
mkfs.ext4 -q "$(part 3)"
mkfs.ext4 -q "$(part 4)"
mkswap "$(part 5)" >/dev/null
mount "$(part 3)" "$ROOT"
mkdir -p "$ROOT/boot" "$ROOT/usr"
mount "$(part 2)" "$ROOT/boot"
mount "$(part 4)" "$ROOT/usr"
files
fstab "$(part 3)" / ext4 errors=remount-ro 1
fstab "$(part 2)" /boot ext4 defaults 2
fstab "$(part 4)" /usr ext4 defaults 2
fstab "$(part 5)" none swap sw 0
large_files
loader
