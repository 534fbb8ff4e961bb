# frozen_string_literal: true

module Evrel
  module Layout
    # A part at its place on the target. start and size are bytes, number is its
    # place in the new table; how says where its bytes come from:
    #
    #   :copy     from the image, as they are
    #   :grow     the same, but for what growing changes: that is made in the scratch room
    #   :scratch  from a copy that was resized in the scratch room
    #   :remake   from a new FAT volume with the same files
    #   :swap     from a new swap space of the same name
    #   :kept     it is on the target and stays there, byte for byte
    Place = Struct.new(:part, :number, :start, :size, :how, keyword_init: true) do
      def end = start + size
      def moves? = start != part.start
      def resized? = size != part.size
      def kept? = how == :kept

      def grows? = how == :grow

      # @return [Boolean] whether its bytes are made in the scratch room
      def prepared? = %i[scratch remake swap].include?(how)

      # @return [String] what becomes of it, for a core
      def change
        return 'stays' if kept?
        return 'made anew' if how == :swap || (how == :remake && !resized?)

        [(if resized?
            size > part.size ? 'grows' : 'shrinks'
          end), ('moves' if moves?)].compact.join(', ').then { |words| words.empty? ? 'as is' : words }
      end
    end
  end
end
