# UEFI, Btrfs with a subvolume for the root and one for /home.
TARGET=x86_64-efi
GRUB_OPTIONS=--force-extra-removable
table <<TABLE
label: gpt
size=256M, type=U
size=3200M, type=L
TABLE
mkfs.vfat -F 32 "$(part 1)" >/dev/null
mkfs.btrfs -q "$(part 2)"
TOP=$(mktemp -d)
mount "$(part 2)" "$TOP"
btrfs -q subvolume create "$TOP/@rootfs"
btrfs -q subvolume create "$TOP/@home"
umount "$TOP" && rmdir "$TOP"
mount -o subvol=@rootfs "$(part 2)" "$ROOT"
mkdir -p "$ROOT/home" "$ROOT/boot/efi"
mount -o subvol=@home "$(part 2)" "$ROOT/home"
mount "$(part 1)" "$ROOT/boot/efi"
files
fstab "$(part 2)" / btrfs defaults,subvol=@rootfs 0
fstab "$(part 2)" /home btrfs defaults,subvol=@home 0
fstab "$(part 1)" /boot/efi vfat umask=0077 1
large_files
loader
