#!/bin/sh
# Installs a system on a disk, as an installer does: table, file systems, files,
# fstab, grub-install, initial ramdisk, update-grub.
#
#   install.sh SYSTEM DISK BASE
#
# SYSTEM names a file in systems/, DISK is a block device, BASE a folder with
# an installed root. Runs as root, on the machine itself or in a workshop.
set -eu

SYSTEM=$1 DISK=$2 BASE=$3
HERE=$(dirname "$0")
ROOT=$(mktemp -d)
KERNEL_LINE=quiet
SERIAL="console=tty0 console=ttyS0,115200"
WAITS=5
TARGET=i386-pc

part() { case $DISK in *[0-9]) echo "${DISK}p$1" ;; *) echo "$DISK$1" ;; esac }
uuid() { blkid -p -s UUID -o value "$1"; }
# The kernel is told of the parts one by one: some that have loop devices do not read tables.
table() { sfdisk -q --no-reread --no-tell-kernel "$DISK"; partx -d "$DISK" 2>/dev/null || true; partx -a "$DISK"; settle; }
settle() { if command -v udevadm >/dev/null; then udevadm settle || true; fi; }
# fstab DEVICE PLACE KIND OPTIONS PASS
fstab() { echo "UUID=$(uuid "$1") $2 $3 $4 0 $5" >>"$ROOT/etc/fstab"; }
inside() { chroot "$ROOT" /usr/bin/env -i PATH=/usr/sbin:/usr/bin:/sbin:/bin LC_ALL=C HOME=/root "$@"; }

# Where no udev runs, update-grub does not believe that a UUID will be found.
by_uuid() {
  device=$(findmnt -n -o SOURCE -v "$ROOT")
  link=/dev/disk/by-uuid/$(uuid "$device")
  if [ -e "$link" ]; then return; fi
  mkdir -p /dev/disk/by-uuid && ln -s "$device" "$link" && LINK=$link
}

files() {
  tar -C "$BASE" --one-file-system --exclude=./proc/* --exclude=./sys/* --exclude=./dev/* --exclude=./run/* --exclude=./tmp/* -cf - . | tar -C "$ROOT" -xpf -
  echo "root:harbour-12" | inside chpasswd
  echo "tkt-09" >"$ROOT/etc/hostname"
  echo "# <file system> <mount point> <type> <options> <dump> <pass>" >"$ROOT/etc/fstab"
}

large_files() {
  mkdir -p "$ROOT/srv/tickets"
  for number in 1 2 3 4 5; do
    seq "$number" 7 "$((number * 900000))" >"$ROOT/srv/tickets/year-$number"
  done
  (cd "$ROOT" && sha256sum srv/tickets/* >"$ROOT/srv/sums")
  cat >"$ROOT/srv/questions" <<'QUESTIONS'
cd / && sha256sum -c srv/sums
findmnt -ln -o TARGET,FSTYPE -t ext2,ext4,xfs,btrfs,vfat
swapon --show=TYPE,SIZE --noheadings
echo ALL-"ASKED"
QUESTIONS
}

# What is run inside of the new system finds the machine that it is installed on.
within() {
  for place in dev proc sys; do mount --bind "/$place" "$ROOT/$place"; done
  if [ -d /run/udev ]; then mkdir -p "$ROOT/run/udev" && mount --bind /run/udev "$ROOT/run/udev"; fi
}

# In a workshop it came with the base, or with the recipe.
ramdisk() {
  if [ -e "$HERE/ramdisk" ]; then cp "$HERE/ramdisk" "$ROOT"/boot/initrd.img-*; fi
  if [ -z "${WORKSHOP:-}" ]; then inside update-initramfs -c -k all; fi
}

loader() {
  mkdir -p "$ROOT/etc/default"
  {
    echo "GRUB_DEFAULT=0"
    echo "GRUB_TIMEOUT=$WAITS"
    echo "GRUB_CMDLINE_LINUX_DEFAULT=\"$KERNEL_LINE\""
    echo "GRUB_CMDLINE_LINUX=\"$SERIAL\""
  } >"$ROOT/etc/default/grub"
  within
  by_uuid
  ramdisk
  # shellcheck disable=SC2086
  inside grub-install --target="$TARGET" ${GRUB_OPTIONS:-} "$DISK"
  inside update-grub
}

leave() {
  code=$?
  sync
  umount -R "$ROOT" 2>/dev/null || umount -R -l "$ROOT" 2>/dev/null || true
  rmdir "$ROOT" 2>/dev/null || true
  if [ -n "${LINK:-}" ]; then rm -f "$LINK"; fi
  command -v unmade >/dev/null && unmade
  exit $code
}
trap leave EXIT

. "$HERE/systems/$SYSTEM.sh"
