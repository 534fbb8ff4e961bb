# UEFI, /boot on its own, LUKS2 with logical volumes inside.
TARGET=x86_64-efi
GRUB_OPTIONS=--force-extra-removable
table <<TABLE
label: gpt
size=256M, type=U
size=300M, type=L
size=3200M, type=L
TABLE
echo -n "low water 7" | cryptsetup -q luksFormat --uuid "$(cat "$HERE/identity")" --type luks2 --pbkdf pbkdf2 --pbkdf-force-iterations 20000 "$(part 3)" -
echo -n "low water 7" | cryptsetup open "$(part 3)" opened -
pvcreate -q -y /dev/mapper/opened
vgcreate -q hold /dev/mapper/opened
lvcreate -A n -y -n root -L 2600M hold
lvcreate -A n -y -n swap -L 200M hold
unmade() { vgchange -q -an hold && cryptsetup close opened; }
mkfs.vfat -F 32 "$(part 1)" >/dev/null
mkfs.ext4 -q "$(part 2)"
mkfs.ext4 -q /dev/hold/root
mkswap /dev/hold/swap >/dev/null
mount /dev/hold/root "$ROOT"
mkdir -p "$ROOT/boot"
mount "$(part 2)" "$ROOT/boot"
mkdir -p "$ROOT/boot/efi"
mount "$(part 1)" "$ROOT/boot/efi"
files
cp "$HERE/crypttab" "$ROOT/etc/crypttab"
{
  echo "/dev/mapper/hold-root / ext4 errors=remount-ro 0 1"
  echo "/dev/mapper/hold-swap none swap sw 0 0"
} >>"$ROOT/etc/fstab"
fstab "$(part 2)" /boot ext4 defaults 2
fstab "$(part 1)" /boot/efi vfat umask=0077 1
large_files
loader
