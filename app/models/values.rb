# frozen_string_literal: true

# A column that holds values: JSON in the database, structs in the program. What
# the struct does not know is left out; kinds and sides are symbols.
class Values < ActiveRecord::Type::Json
  SYMBOLS = %w[kind side].freeze

  # @param struct [Class] a Struct with keyword_init
  # @param list [Boolean] whether it holds several
  def initialize(struct, list: true)
    @struct = struct
    @list = list
    super()
  end

  def deserialize(value) = build(super)
  def cast(value) = build(value)
  def serialize(value) = super(@list ? value&.map { |one| one.to_h.compact } : value&.to_h&.compact)

  private

  def build(value)
    return if value.nil?

    @list ? value.map { |one| made(one) } : made(value)
  end

  def made(one)
    return one if one.is_a?(@struct)

    fields = one.to_h.transform_keys(&:to_s).slice(*@struct.members.map(&:to_s))
    @struct.new(**fields.to_h { |name, given| [name.to_sym, SYMBOLS.include?(name) ? given&.to_sym : given] })
  end
end
