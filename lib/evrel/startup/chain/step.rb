# frozen_string_literal: true

module Evrel
  module Startup
    # One step of the start-up chain. state is :ok, :ask or :no; detail says
    # why; evidence where that was read (offset, path, value); remedy what can be
    # done about it, in words; mend the id of the mend that does it, with what it
    # needs to know in about; part the number of a partition.
    Step = Struct.new(:id, :state, :title, :detail, :evidence, :part, :remedy, :mend, :about, keyword_init: true) do
      # @param part [Table::Partition] where the file lies, or is to lie
      # @param about [Hash] which one, as Mend::FromImage takes it
      # @return [Hash] remedy, mend and about of a step whose file the image has
      def self.from_image(part, **about)
        { remedy: 'Put it back from the image', mend: 'file', about: { number: part.number, **about.compact } }
      end

      def to_h = super.compact
    end
  end
end
