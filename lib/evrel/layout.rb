# frozen_string_literal: true

module Evrel
  # Fitting an image to a target, before a byte is written.
  module Layout
    # The table of the image on a target of the same size or larger.
    # @param image [Image::Native]
    # @param target_size [Integer] bytes
    # @param target_sector [Integer] logical sector, bytes
    # @return [Plan]
    # @raise [DoesNotFit] where a part would leave the target
    # @raise [DoesNotFit] where the sector sizes differ
    def self.as_in_image(image, target_size, target_sector)
      sector = image.manifest.logical_sector
      if sector != target_sector
        raise DoesNotFit.new("the image has sectors of #{sector} bytes, the target of #{target_sector}",
                             where: 'layout', hint: 'choose a drive with the same sector size')
      end
      return whole(image, target_size) unless image.table

      table = image.table.for_disk(target_size)
      pieces = [code_piece(table)].compact + table.partitions.map do |part|
        Piece.new(number: part.number, name: part_name(part), role: part.role, image_start: part.start,
                  target_start: part.start, size: part.size)
      end
      Plan.new(table:, pieces:, target_size:)
    end

    # What a loader has put in front of the first partition comes along.
    def self.code_piece(table)
      start, size = table.code_area
      Piece.new(number: nil, name: 'Start-up code', role: :startup, image_start: start, target_start: start, size:) if size&.positive?
    end

    # @return [String] the word for a part on a core and in orders
    def self.part_name(part) = part.name.empty? ? Table::Types.role_name(part.role) : part.name

    # A disk without a table that is known: everything, its first cluster last,
    # since that is what makes it look whole.
    def self.whole(image, target_size)
      size = image.manifest.size
      if size > target_size
        raise DoesNotFit.new("the image's disk is #{Units.bytes(size - target_size)} larger than the target",
                             where: 'layout')
      end

      head = [Image::CLUSTER, size].min
      pieces = [[head, size - head, 'Whole disk'], [0, head, 'First sectors']].map do |start, length, name|
        Piece.new(number: nil, name:, role: :data, image_start: start, target_start: start, size: length)
      end
      Plan.new(table: nil, pieces: pieces.select { |piece| piece.size.positive? }, target_size:)
    end
    private_class_method :whole, :code_piece
  end
end
