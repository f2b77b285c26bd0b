using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Bostel.Data.Migrations
{
    /// <inheritdoc />
    public partial class ReferenceFrame : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<double[]>(
                name: "Frame",
                table: "Nominals",
                type: "double precision[]",
                nullable: true);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropColumn(
                name: "Frame",
                table: "Nominals");
        }
    }
}
