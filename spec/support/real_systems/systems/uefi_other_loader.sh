# UEFI with the loader of systemd, without GRUB; swap with a key of its own at each start.
TARGET=
table <<TABLE
label: gpt
size=300M, type=U
size=2800M, type=L
size=300M, type=S
TABLE
mkfs.vfat -F 32 "$(part 1)" >/dev/null
mkfs.ext4 -q "$(part 2)"
mount "$(part 2)" "$ROOT"
mkdir -p "$ROOT/boot/efi"
mount "$(part 1)" "$ROOT/boot/efi"
files
fstab "$(part 2)" / ext4 errors=remount-ro 1
fstab "$(part 1)" /boot/efi vfat umask=0077 1
echo "swap_crypt PARTUUID=$(blkid -p -s PART_ENTRY_UUID -o value "$(part 3)") /dev/urandom swap,cipher=aes-xts-plain64,size=256" >"$ROOT/etc/crypttab"
echo "/dev/mapper/swap_crypt none swap sw 0 0" >>"$ROOT/etc/fstab"
large_files
mkdir -p "$ROOT/etc/kernel"
echo "root=UUID=$(uuid "$(part 2)") ro $KERNEL_LINE $SERIAL" >"$ROOT/etc/kernel/cmdline"
within
inside bootctl install --no-variables --esp-path=/boot/efi
version=$(ls "$ROOT/lib/modules")
inside kernel-install add "$version" "/boot/vmlinuz-$version" "/boot/initrd.img-$version"
