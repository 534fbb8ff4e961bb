# UEFI, a GPT with ext4, /home on XFS, and swap last.
TARGET=x86_64-efi
GRUB_OPTIONS=--removable
table <<TABLE
label: gpt
size=256M, type=U, name="EFI System Partition"
size=2600M, type=L
size=600M, type=L
size=300M, type=S
TABLE
mkfs.vfat -F 32 "$(part 1)" >/dev/null
mkfs.ext4 -q "$(part 2)"
mkfs.xfs -q "$(part 3)"
mkswap "$(part 4)" >/dev/null
mount "$(part 2)" "$ROOT"
mkdir -p "$ROOT/home" "$ROOT/boot/efi"
mount "$(part 3)" "$ROOT/home"
mount "$(part 1)" "$ROOT/boot/efi"
files
mkdir -p "$ROOT/home/ina" && seq 1 50000 >"$ROOT/home/ina/crossings"
fstab "$(part 2)" / ext4 errors=remount-ro 1
fstab "$(part 1)" /boot/efi vfat umask=0077 1
fstab "$(part 3)" /home xfs defaults 0
fstab "$(part 4)" none swap sw 0
large_files
loader
