# frozen_string_literal: true

module Evrel
  module Startup
    # Where the kernel finds its root.
    class RootSteps
      # What is opened, or put together, before the root can be seen.
      INSIDE = { encrypted: 'encrypted: its passphrase is asked for at the start',
                 logical: 'made of logical volumes, which are put together at the start' }.freeze
      # A physical volume of LVM has its label in one of the first four sectors: this, and its kind 24 bytes behind.
      LABEL = 'LABELONE'
      LVM = 'LVM2 001'
      TITLE = 'The kernel finds its root'
      LOST = 'The kernel does not find its root'

      # @param walk [Walk]
      # @param choice [Choice]
      # @param ramdisk [Boolean] whether the kernel starts with an initial ramdisk
      def initialize(walk, choice, ramdisk:)
        @walk = walk
        @places = walk.places
        @choice = choice
        @ramdisk = ramdisk
      end

      # @return [(Table::Partition, Volume), nil] nil where it cannot be looked into
      def take
        @spec = @choice.root
        return @walk.ask('root', 'The entry names no root', 'The initial ramdisk decides', @choice.where) unless @spec
        return mapped if @choice.mapped_root?

        part = @places.find(@spec) || lost
        damage = @places.damage(part)
        @walk.broken('root', 'The root is damaged', damage.message, damage.where, part: part.number) if damage
        return opened_first(part) if inside(part)

        found(part)
        [part, @places.volume(part)]
      end

      private

      # @return [Symbol, nil] a key of INSIDE
      def inside(part)
        return :encrypted if @places.volume(part).kind.start_with?('luks')

        head = part.window(@walk.disk).read(0, [2048, part.size].min)
        :logical if [0, 512, 1024, 1536].any? { |at| head.byteslice(at, 8) == LABEL && head.byteslice(at + 24, 8) == LVM }
      end

      def lost
        @walk.broken('root', LOST, "#{@spec} is on no part of this disk", @choice.where,
                     remedy: 'Write the identity that the root has now in its place', mend: 'references', about:)
      end

      # Kernels without an initial ramdisk know partitions by their own identity only.
      def about = { spec: @spec, ramdisk: @ramdisk }

      def mapped
        container = @walk.table.partitions.find { |part| inside(part) }
        return opened_first(container) if container

        @walk.broken('root', LOST, "#{@spec} lies on an encrypted or a logical volume, and no part of this disk holds one",
                     @choice.where, remedy: 'Restore that part from the image')
      end

      def opened_first(part)
        @walk.ask('root', "#{@spec} lies inside of #{@places.word(part)}",
                  "That part is #{INSIDE.fetch(inside(part))}; what is inside is not read here", "partition #{part.number}",
                  part: part.number, remedy: 'Use the trial start')
      end

      def found(part)
        evidence = "#{@choice.where}, partition #{part.number}"
        is = "#{short} is #{@places.word(part)}"
        return twin_too(is, evidence, part) if twin
        return by_place(evidence, part) if @places.changing?(@spec)

        @walk.ok('root', TITLE, is, evidence, part: part.number)
      end

      def twin
        @twin ||= @walk.computer.attached.find { |one| one.identities.any? { |id| id.casecmp?(@spec.split('=', 2).last) } }
      end

      def twin_too(is, evidence, part)
        @walk.ask('root', TITLE, "#{is}, but the disk in port #{twin.port} has it too: take that one out", evidence,
                  part: part.number, remedy: "Take out the disk in port #{twin.port}")
      end

      def by_place(evidence, part)
        @walk.ask('root', TITLE, "#{@spec} names a place, not this disk: it may be another one in another port", evidence,
                  part: part.number, remedy: 'Name it by an identity instead', mend: 'references', about:)
      end

      def short = @spec.sub(/(=.{4}).{8,}/, '\1…')
    end
  end
end
