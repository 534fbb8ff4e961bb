# frozen_string_literal: true

module Evrel
  # Fitting an image to a target, before a byte is written.
  #
  #   source = Layout::Source.of(image)
  #   target = Layout::Target.of(disk)
  #   wish, why = Layout::Proposal.for(source, target)
  #   plan = Layout::Planner.new(source, target, wish).plan
  #   plan.valid? ? plan.table : plan.checks
  module Layout
    # Above what a volume needs, when it is shrunk without being told by hand.
    AIR_PERCENT = 10
    LEAST_AIR = 256 * MIB
    # What swap keeps, and what a start-up part keeps free, when nothing else can give room.
    LEAST_SWAP = 64 * MIB
    LEAST_STARTUP_AIR = 16 * MIB
    # Beyond every disk.
    MOST_SIZE = 1 << 62

    # The image with the table that it has, on a target of the same size or larger.
    # @param image [Image::Native, Image::Foreign]
    # @param target [Disk, Target]
    # @return [Plan]
    # @raise [DoesNotFit] where a part would leave the target
    def self.as_in_image(image, target)
      target = Target.of(target) unless target.is_a?(Target)
      Planner.new(Source.of(image), target, { 'way' => 'as_in_image' }).plan.valid!
    end

    # @param place [Place]
    # @return [Piece] what is written for it, before what growing changes of it
    def self.piece(place)
      prepared = place.prepared?
      size = prepared ? place.size : [place.size, place.part.size].min
      Piece.new(number: place.part.number, name: place.part.word, role: place.part.role, image_start: prepared ? 0 : place.part.start,
                target_start: place.start, size:, how: place.how, room: place.size)
    end

    # @param places [Array<Place>]
    # @return [Array<Piece>] what is written for them; what growing changes comes after all that is as in the image
    def self.pieces(places)
      growing = places.select { |place| place.how == :grow }
      places.map { |place| piece(place) } +
        growing.map { |place| Piece.new(**piece(place).to_h, how: :grown, image_start: 0, size: place.size) }
    end
  end
end
