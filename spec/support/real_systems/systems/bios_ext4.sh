# BIOS, an MBR with one ext4 and swap in a logical partition.
table <<TABLE
label: dos
start=2048, size=6000000, type=83, bootable
start=6002686, size=1050000, type=5
start=6002688, size=1049000, type=82
TABLE
mkfs.ext4 -q "$(part 1)"
mkswap "$(part 5)" >/dev/null
mount "$(part 1)" "$ROOT"
files
fstab "$(part 1)" / ext4 errors=remount-ro 1
fstab "$(part 5)" none swap sw 0
echo "/dev/sr0 /media/cdrom0 udf,iso9660 user,noauto 0 0" >>"$ROOT/etc/fstab"
large_files
loader
