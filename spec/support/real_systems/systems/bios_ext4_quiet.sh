# The same as bios_ext4, as an installer leaves it: nothing on a serial line.
SERIAL=
. "$HERE/systems/bios_ext4.sh"
