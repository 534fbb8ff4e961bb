# frozen_string_literal: true

module Evrel
  # The port through which drives, their ports and computers at hand are seen. A
  # kind of bench includes this module and implements:
  #
  #   name                  String: its name among all that share a database
  #   drives                Array<Bench::Drive>: what is attached, by port
  #   port_names            Array<String>: every port, taken or not
  #   moves(since:)         Array<Bench::Move>: what was pulled, plugged and changed after that move, in order
  #   revision              String: changes whenever anything on the bench has
  #   lock(drive, docket)   marks the drive itself as locked to a docket's number; nil releases it
  #   lock_on(drive)        String, nil: the docket's number that it is locked to
  #   open(drive, writable:, docket:)   Disk
  #   mount_point(drive)    String: where its file system is mounted
  #   mount(drive, path)    Shelf::Folder of a folder there; what is opened in it is cut off with the drive
  #   smart(drive)          Hash, nil: its SMART data, as smartctl prints them with --json
  #
  # What only some can do they offer by name, and everybody asks for it by that name:
  #
  #   :handling    plug, pull, swap, spare, handle_drive, switches: what hands do at a bench
  #   :computers   computers, handle_computer, change_computer: computers at hand, that can be turned on
  #
  # spec/contracts/bench.rb is the contract that every kind passes.
  module Bench
    # One move: number from 1, Time, :plugged, :pulled or :changed, port, name of the drive at this bench.
    Move = Struct.new(:number, :at, :what, :port, :name, keyword_init: true)

    # @return [Array<Symbol>] what this kind can do besides
    def offers = []

    # @param what [Symbol]
    def offers?(what) = offers.include?(what)

    # @return [Integer] of the last move; 0 where nothing has moved yet
    def last_move = moves(since: 0).last&.number.to_i

    # @return [Array<Drive>] those that lie beside it, with port nil; none where hands do not handle it here
    def spare = []

    # In errors and logs it shows its name.
    def inspect = "#<#{self.class.name} #{name}>"
  end
end
