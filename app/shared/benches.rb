# frozen_string_literal: true

require_relative '../../stand_ins/bench'

# The benches that this host has at hand, by name. The one place where it is set
# up of which kinds they are; everybody else asks what a bench offers.
module Benches
  class << self
    # @return [Array<Evrel::Bench>]
    def all = @all ||= [StandIns::Bench.new(Config.path('bench'), name: Config.bench, warden:)]

    # Other benches than those that are set up; nil goes back to those.
    attr_writer :all

    # @return [Array<String>]
    def names = all.map(&:name)

    # @return [Evrel::Bench]
    # @raise [Evrel::NotFound] where it is none of this host's
    def [](name) = all.find { |bench| bench.name == name } || raise(Evrel::NotFound.new("there is no bench #{name} here", where: 'bench'))

    # @return [Array<Evrel::Bench::Drive>] what is attached, by bench and port
    def drives = all.flat_map(&:drives)

    # @return [Array<Evrel::Bench::Drive>] what lies beside them
    def spare = all.flat_map(&:spare)

    # @return [String] changes whenever anything on one of them has
    def revision = all.map { |bench| "#{bench.name} #{bench.revision}" }.join('; ')

    # @param what [Symbol] see Evrel::Bench
    # @return [Array<Evrel::Bench>] those that offer it
    def offering(what) = all.select { |bench| bench.offers?(what) }

    # @param what [Symbol]
    # @param name [String, nil] of the bench that is meant; the first one where it is left out
    # @return [Evrel::Bench]
    # @raise [Evrel::NotFound] where it does not offer it
    def for(what, name = nil)
      offering(what).find { |bench| name.nil? || bench.name == name } ||
        raise(Evrel::NotFound.new("there is no bench here that offers #{what}", where: name || 'bench'))
    end

    # @param name [String] of a computer
    # @return [Array<(Evrel::Bench, Hash)>, nil] a computer at hand, and where
    def computer(name)
      offering(:computers).each do |bench|
        found = bench.computers.find { |one| one['name'] == name }
        return [bench, found] if found
      end
      nil
    end

    private

    def warden = Config.warden && Evrel::Warden::Client.new(Config.warden)
  end
end
