# frozen_string_literal: true

module Evrel
  # A small process with the right to open drives for writing, which pages and
  # workers do not have. They ask it over a socket of this machine, one line for
  # each request; it looks at the drive itself, and hands its descriptor over. It
  # reads no file system and no image.
  #
  #   {"bench": "bench-1", "port": "3", "key": "TF48-2209-7Q4F", "capacity": 480103981056, "docket": "D-0042"}
  #
  # is answered by a line too, {} with the descriptor (SCM_RIGHTS, unix(7)), or an error as Error#to_h. Drives are known by
  # their key and capacity; docket is null where the drive is opened for none.
  module Warden
    LONGEST = 4096 # bytes of a line
  end
end
