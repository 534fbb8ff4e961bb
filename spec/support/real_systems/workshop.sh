#!/bin/sh
# The first program of the workshop: a machine that has what the one that runs
# the tests may lack (FAT, device mapper). Its own root is what it installs;
# the disk to install on is vdb, what to do comes as an archive on vdc.
mount -t tmpfs tmpfs /tmp && mount -t tmpfs tmpfs /run && mount -t proc proc /proc && mount -t sysfs sysfs /sys
mount -t devtmpfs devtmpfs /dev 2>/dev/null
export PATH=/usr/sbin:/usr/bin:/sbin:/bin LC_ALL=C WORKSHOP=yes
/lib/systemd/systemd-udevd --daemon
udevadm trigger && udevadm settle
modprobe -a vfat ext4 xfs btrfs dm_mod dm_crypt 2>/dev/null
mkdir -p /tmp/recipe && tar -C /tmp/recipe -xf /dev/vdc
sh /tmp/recipe/install.sh "$(cat /tmp/recipe/system)" /dev/vdb / && outcome=DONE || outcome=FAILED
sync
echo "WORKSHOP: $outcome"
echo o >/proc/sysrq-trigger
sleep 60
