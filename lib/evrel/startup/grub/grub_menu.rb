# frozen_string_literal: true

module Evrel
  module Startup
    # GRUB's menu, and which of its entries is started when nobody touches a key.
    module GrubMenu
      # title and id as in the menu; body is what it does; where and config as in Choice; entries are those of a submenu, nil
      # elsewhere.
      Entry = Struct.new(:title, :id, :body, :where, :config, :entries)

      module_function

      # @param entries [Array<Entry>]
      # @param wish [String] "2", "1>3", a title or an id
      # @return [Entry, nil]
      def chosen(entries, wish)
        first, rest = wish.split('>', 2)
        found = (if first.to_s.match?(/\A\d+\z/)
                   entries[first.to_i]
                 else
                   entries.find do |one|
                     [one.title, one.id].include?(first)
                   end
                 end) || entries.first
        found&.entries.to_a.any? ? chosen(found.entries, rest || '0') : found
      end
    end
  end
end
