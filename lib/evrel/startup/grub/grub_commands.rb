# frozen_string_literal: true

module Evrel
  module Startup
    # Which of GRUB's commands decide what is started, and which methods of
    # GrubConfig carry them out. All others only set up the screen, or load
    # modules that are taken to be there.
    module GrubCommands
      METHODS = { set: %w[set], unset: %w[unset], search: %w[search], search_uuid: %w[search.fs_uuid], search_label: %w[search.fs_label],
                  search_file: %w[search.file], test: %w([ test), load_env: %w[load_env], menu_entry: %w[menuentry], submenu: %w[submenu],
                  linux: %w[linux linux16 linuxefi], initrd: %w[initrd initrd16 initrdefi], chain: %w[chainloader],
                  configure: %w[configfile source .], no: %w[false loadfont] }
                .flat_map { |method, names| names.map { |name| [name, method] } }.to_h.freeze
    end
  end
end
