# frozen_string_literal: true

# What a check has found, in words.
module ImageWords
  module_function

  # @param image [Image]
  # @return [String, nil]
  def damage(image)
    return image.problem if image.problem

    result = image.check_result if image.damaged?
    return unless result
    return result['error'] if result['error']

    places(image, result) || result['files'].join('; ')
  end

  # @param image [Image]
  # @return [String, nil] what of the disk could not be read when it was taken
  def unread(image)
    places = image.document.unread
    return if places.empty?

    sectors = image.unread_sectors
    parts = image.document.parts.select { |part| places.any? { |offset, length| Evrel::Image::Document.touches?(part, offset, length) } }
    known = image.check_result&.key?('unread_hit')
    "#{Evrel::Units.count(sectors)} sector#{'s' if sectors > 1} could not be read when it was taken" \
      "#{", in #{parts.map { |part| part_name(part) }.to_sentence}" if parts.any?}" \
      "#{known ? ": #{files(image.check_result['unread_hit'])}" : '; a check tells which files that hits'}"
  end

  # @return [Array<String>] names of the parts that no damage was found in
  def usable_parts(image)
    return [] unless image.damaged? && image.check_result && image.check_result['error'].nil?

    hit = image.check_result['places'].map { |place| place['part'] }
    # More damage than is listed may lie anywhere.
    return [] if image.check_result['damaged'] > image.check_result['places'].size

    image.document.parts.reject { |part| hit.include?(part['number']) }.map { |part| part_name(part) }
  end

  def files(hit)
    return 'which files that hits cannot be told' if hit.any? { |file| file['path'].nil? }

    hit.empty? ? 'no files' : "#{hit.size} file#{'s' if hit.size > 1}"
  end

  def part_name(part)
    [part['name'], part.dig('volume', 'label'), "part #{part['number']}"].find(&:present?)
  end

  def places(image, result)
    return unless result['damaged'].positive?

    parts = result['places'].map { |place| place['part'] }.uniq.map do |number|
      part = image.document.partition(number)
      part ? part_name(part) : 'the partition table'
    end
    hit = result['hit'].to_a.count { |file| file['path'] }
    "#{result['damaged']} cluster#{'s' if result['damaged'] > 1} differ#{'s' if result['damaged'] == 1}, in #{parts.to_sentence}" \
      "#{": #{hit} file#{'s' if hit > 1}" if hit.positive?}"
  end
  private_class_method :places, :files
end
