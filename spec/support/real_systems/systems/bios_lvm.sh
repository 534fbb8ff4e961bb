# BIOS, /boot on its own, root and swap on logical volumes.
# The workshop’s own root is read-only: no copy of the metadata is kept there.
table <<TABLE
label: dos
start=2048, size=500000, type=83, bootable
start=503806, size=7000000, type=5
start=503808, size=6999000, type=8e
TABLE
pvcreate -q -y "$(part 5)"
vgcreate -q quay "$(part 5)"
lvcreate -A n -y -n root -L 2600M quay
lvcreate -A n -y -n swap -L 300M quay
unmade() { vgchange -q -an quay; }
mkfs.ext2 -q "$(part 1)"
mkfs.ext4 -q /dev/quay/root
mkswap /dev/quay/swap >/dev/null
mount /dev/quay/root "$ROOT"
mkdir -p "$ROOT/boot"
mount "$(part 1)" "$ROOT/boot"
files
{
  echo "/dev/mapper/quay-root / ext4 errors=remount-ro 0 1"
  echo "/dev/mapper/quay-swap none swap sw 0 0"
} >>"$ROOT/etc/fstab"
fstab "$(part 1)" /boot ext2 defaults 2
large_files
loader
