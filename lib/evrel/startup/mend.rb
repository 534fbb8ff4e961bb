# frozen_string_literal: true

module Evrel
  module Startup
    # Mends of the start-up chain. Each works out what it would change, byte for
    # byte (Draft), and changes nothing: that is done by Execution, which keeps what
    # was there.
    module Mend
      KINDS = {
        'boot-signature' => :BootSignature, 'boot-code' => :BootCode, 'core' => :Core, 'active' => :Active, 'boot-record' => :BootRecord,
        'hidden-sectors' => :HiddenSectors, 'gpt' => :GptCopies, 'startup-type' => :StartupType, 'partition-guid' => :PartitionGuid,
        'fallback' => :Fallback, 'references' => :References, 'identities' => :Identities, 'add-modules' => :AddModules,
        'drivers' => :Drivers, 'store' => :StoreDevice, 'file' => :FromImage, 'mount-line' => :MountLine,
        'other-kernel' => :OtherKernel, 'old-identity' => :OldIdentity
      }.freeze

      # What a mend works with: the disk, what the step says about it, the image that the disk was written from (or nil).
      Context = Struct.new(:disk, :about, :image, keyword_init: true) do
        # @raise [Damaged] where there is none
        def table
          @table ||= Table.read(disk) or raise Damaged.new('the disk has no partition table', where: 'sector 0')
        end

        def places = @places ||= Places.new(disk, table)

        # @return [Table::Partition]
        # @raise [NotFound]
        def part(number = about[:number])
          raise Refused.new('it is not said which partition is meant', where: 'mend', hint: 'name it by its number') unless number

          table.partitions.find do |one|
            one.number == number
          end or raise NotFound.new("there is no partition #{number}", where: "partition #{number}")
        end

        # @return [Places] of the image
        # @raise [NotFound] where it has no table
        def image_places
          @image_places ||= begin
            table = Table.read(image!) or raise NotFound.new('the image has no partition table', where: 'image')
            Places.new(image, table)
          end
        end

        # @raise [Refused] where a mend needs the image and there is none
        def image!
          image or raise Refused.new('this mend takes what it writes from the image', where: 'image', hint: 'name the image')
        end
      end

      # @param id [String] a key of KINDS
      # @param disk [Disk]
      # @param about [Hash] as in Step
      # @param image [Disk, nil] what an image gives when it is read
      # @return [Draft]
      # @raise [Error] where it cannot be worked out
      def self.draft(id, disk:, about: {}, image: nil)
        unless KINDS.key?(id)
          raise NotFound.new("there is no mend “#{id}”", where: 'mend',
                                                         hint: "these there are: #{KINDS.keys.join(', ')}")
        end

        const_get(KINDS[id]).new(Context.new(disk:, about: about.to_h.transform_keys(&:to_sym), image:)).draft.tap do |draft|
          draft.mend = id
          raise Refused.new('there is nothing to mend: it is as it should be', where: id) if draft.changes.empty?
        end
      end

      # @param context [Context]
      def initialize(context)
        @context = context
      end

      private

      def disk = @context.disk
      def table = @context.table

      # @param pieces [Array<(Integer, String)>]
      def draft_of(pieces, title:, before:, after:)
        Draft.new(title:, before:, after:, changes: Change.of(disk, pieces))
      end

      # Files of a part, put there by tools that work on an overlay.
      # @param part [Table::Partition]
      # @yieldparam editor [Volume::Editor]
      # @return [Array<(Integer, String)>]
      def edited(part)
        volume = @context.places.volume(part)
        Overlay.new(disk).edit(part) { |path| yield volume.editor(path) }
      end
    end
  end
end
