# frozen_string_literal: true

require 'json'

module Evrel
  class CLI
    # The start-up chain, mends and trial starts, for the command line.
    class StartupCommand
      # @return [Integer] bytes of a file that describes a computer
      LARGEST = MIB

      attr_reader :computer, :picture, :image, :undo, :record, :about

      # @param keys [Keys] that open images
      def initialize(keys = Keys.none)
        @keys = keys
        @computer = {}
        @trial = {}
        @proof = {}
        @about = {}
      end

      # @param command [Symbol] :startup, :mend or :try
      # @return [OptionParser]
      def parser(command)
        OptionParser.new.tap do |parser|
          parser.on('--computer FILE') { |file| @computer = read(file) }
          mend_options(parser) if command == :mend
          try_options(parser) if command == :try
        end
      end

      # @param disk [Disk]
      # @return [Array<Startup::Step>]
      def chain(disk) = Startup.chain(disk, Startup::Computer.from(computer))

      # The mend of a step of the chain, named by the id of the step or of the mend itself.
      # @param path [String] of the disk's file
      # @return [Hash] what was changed
      # @raise [Error]
      def mend(path, name)
        Disk::File.open(path, writable: true) do |disk|
          next undone(disk) if undo

          step = chain(disk).find { |one| one.mend && [one.id, one.mend].include?(name) }
          draft = with_image { |image| Startup::Mend.draft(step&.mend || name, disk:, about: (step&.about || {}).merge(about), image:) }
          Startup::Mend::Execution.apply(disk, draft, record_of(path, draft)) unless @dry
          { path:, **draft.to_h, record: @dry ? nil : record_of(path, draft), state: Fact.worst(chain(disk)) }
        end
      end

      # @param file [String] and format, as Image::TrialSource lends them
      # @param firmware [Symbol]
      # @return [Startup::Trial::Result]
      def try(file, format, firmware)
        firmware = computer['firmware'].to_sym if computer['firmware']
        Startup::Trial.new(file, format:, firmware:, secure_boot: computer['secure_boot'] == true, proof:, **@trial).run(picture:)
      end

      private

      def mend_options(parser)
        parser.on('--image IMAGE') { |path| @image = path }
        parser.on('--record FILE') { |file| @record = file }
        parser.on('--undo FILE') { |file| @undo = file }
        parser.on('--dry') { @dry = true }
        parser.on('--pack FOLDER') { |folder| (@about[:packs] ||= []) << folder }
        parser.on('--part NUMBER', Integer) { |number| @about[:number] = number }
        parser.on('--path PATH') { |path| (@about[:paths] ||= []) << path }
        parser.on('--line NUMBER', Integer) { |number| @about[:line] = number }
      end

      def try_options(parser)
        parser.on('--expect TEXT') { |text| @proof[:expect] = text }
        parser.on('--command LINE') { |line| @proof[:command] = line }
        parser.on('--user NAME') { |name| @proof[:user] = name }
        parser.on('--password-file FILE') { |file| @proof[:password] = password(file) }
        parser.on('--limit SECONDS', Float) { |seconds| @trial[:limit] = seconds }
        parser.on('--picture FILE') { |file| @picture = file }
        parser.on('--sector BYTES', Integer) { |bytes| @trial[:sector] = bytes }
        parser.on('--controller NAME', Startup::Emulator::CONTROLLERS) { |name| @trial[:controller] = name }
      end

      # The first line of a file: what is typed on a command line stays in its history.
      def password(file)
        ::File.open(file) { |io| io.gets.to_s.chomp }
      rescue SystemCallError => e
        raise ArgumentError, "#{file} cannot be read: #{e.message}"
      end

      # Without a command, the text is only waited for.
      def proof
        return Startup::Proof.new(user: 'root', **@proof) if @proof[:command] && @proof[:expect]
        raise ArgumentError, '--command needs --expect' if @proof[:command]

        @trial[:expect] = @proof[:expect] if @proof[:expect]
        nil
      end

      def read(file)
        value = JSON.parse(::File.read(file, LARGEST))
        value.is_a?(Hash) ? value : raise(ArgumentError, "#{file} is no description of a computer")
      rescue JSON::ParserError, SystemCallError => e
        raise ArgumentError, "#{file} cannot be read: #{e.message.lines.first.strip}"
      end

      def record_of(path, draft) = record || "#{path}.#{draft.mend}.mend"

      def undone(disk)
        Startup::Mend::Execution.undo(disk, undo)
        { path: disk.path, undone: undo, state: Fact.worst(chain(disk)) }
      end

      def with_image
        return yield(nil) unless image

        opened = Image.open(image, keys: @keys)
        yield opened.disk
      ensure
        opened&.close
      end
    end
  end
end
