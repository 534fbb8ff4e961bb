# frozen_string_literal: true

module Evrel
  module Startup
    # What the readers of the chain share: the disk, the computer, and the steps
    # that were taken. The chain ends where it breaks.
    class Walk
      attr_reader :disk, :computer, :steps
      # @return [Table::Gpt, Table::Mbr]
      attr_accessor :table
      # @return [Places]
      attr_accessor :places

      # @param disk [Disk]
      # @param computer [Computer]
      def initialize(disk, computer)
        @disk = disk
        @computer = computer
        @steps = []
      end

      # @yield takes the steps; `broken` ends it
      # @return [Array<Step>]
      def run
        catch(self) { yield self }
        steps
      end

      def ok(id, title, detail, evidence = nil, **about) = add(id, :ok, title, detail, evidence, **about)
      def ask(id, title, detail, evidence = nil, **about) = add(id, :ask, title, detail, evidence, **about)

      # What does not hinder the start, but the work afterwards, is a no that the chain goes on behind.
      def no(id, title, detail, evidence = nil, **about) = add(id, :no, title, detail, evidence, **about)

      def broken(id, title, detail, evidence = nil, **about)
        no(id, title, detail, evidence, **about)
        throw self
      end

      # It ends here.
      def leave = throw(self)

      # Where it cannot be read any further, though nothing is known to be wrong.
      def unknown(id, title, detail, evidence = nil, **about)
        ask(id, title, detail, evidence, **about)
        throw self
      end

      private

      def add(id, state, title, detail, evidence, **about)
        @steps << Step.new(id:, state:, title:, detail:, evidence:, **about)
        nil
      end
    end
  end
end
